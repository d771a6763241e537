namespace Cursiva.StandIn.Customs;

/// <summary>How the desk is spoken to: <c>/customs/old</c>, <c>/customs/middle</c>, <c>/customs/standard</c>.</summary>
public enum DeskWay
{
    /// <summary>RSA1_5 for members of the sign-in, AES-256-ECB for bodies.</summary>
    Old,

    /// <summary>RSA-OAEP for the whole sign-in, AES-256-CBC for bodies and for the answer to the sign-in.</summary>
    Middle,

    /// <summary>JWE for both, and answers signed as HTTP messages.</summary>
    Standard,
}
