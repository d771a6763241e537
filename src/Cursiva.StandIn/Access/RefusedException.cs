namespace Cursiva.StandIn.Access;

/// <summary>A request that is refused (RFC 6749 section 5.2).</summary>
public sealed class RefusedException(string error, string description, int status = 400) : Exception(description)
{
    public string Error { get; } = error;

    public int Status { get; } = status;
}
