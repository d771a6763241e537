namespace Cursiva.Core.Checks;

/// <summary>What a line of a live check says.</summary>
public enum LiveState
{
    Good,

    /// <summary>A run would get in, and a person should know of it.</summary>
    Notice,

    /// <summary>A run would not get in.</summary>
    Bad,
}
