namespace Cursiva.Core.Checks;

/// <summary>Is told of a search for a way in.</summary>
public interface IAccessSearchWatch
{
    /// <summary>A search begins.</summary>
    /// <param name="signIns">How many sign-ins it makes at most.</param>
    /// <param name="where">The server that is asked.</param>
    void Begins(string identity, int signIns, string where);

    /// <summary>A way was tried.</summary>
    /// <param name="refused">What it was refused with; null when it got in.</param>
    void Tried(AccessTrial trial, string? refused);

    /// <summary>Nothing is tried as an identity.</summary>
    void NotTried(string identity, string why);
}
