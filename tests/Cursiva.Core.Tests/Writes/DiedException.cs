namespace Cursiva.Core.Tests.Writes;

/// <summary>The process ended here.</summary>
internal sealed class DiedException : Exception;
