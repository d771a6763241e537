namespace Cursiva.Core.Pulls;

/// <summary>A page that is not what the pull expects.</summary>
/// <param name="what">What is wrong, and at which byte (from 1).</param>
public sealed class PageException(string what) : Exception(what);
