namespace Cursiva.Core.Pulls;

/// <summary>A page that is not what the pull expects.</summary>
/// <param name="what">What is wrong, and at which byte (from 1).</param>
/// <param name="mayPass">Whether a second look may show another page.</param>
public sealed class PageException(string what, bool mayPass = false) : Exception(what)
{
    /// <summary>Whether it may have been damaged on the way: it is not JSON, or cut off.</summary>
    public bool MayPass =>
        mayPass || Message.StartsWith("not JSON", StringComparison.Ordinal) || Message.StartsWith("not UTF-8", StringComparison.Ordinal);
}
