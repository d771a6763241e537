namespace Cursiva.Core.Refusals;

/// <summary>What kind of trouble it was, before any detail.</summary>
public enum Trouble
{
    /// <summary>An answer with a status that is not a success.</summary>
    Status,

    /// <summary>No connection: name, route or port.</summary>
    Unreachable,

    /// <summary>No trust: certificate or protocol of TLS.</summary>
    Tls,

    /// <summary>No answer in time.</summary>
    Silent,

    /// <summary>The connection broke before the answer was whole.</summary>
    CutOff,

    /// <summary>A success whose content is a web page.</summary>
    Html,

    /// <summary>A success whose content is not what was asked for.</summary>
    NotUnderstood,

    /// <summary>A redirect, which is never followed with credentials.</summary>
    Redirect,
}
