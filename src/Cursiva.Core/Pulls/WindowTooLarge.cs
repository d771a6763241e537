namespace Cursiva.Core.Pulls;

/// <summary>A window has more rows than the API gives for one query.</summary>
internal sealed class WindowTooLarge : Exception;
