namespace Cursiva.Core.Drafts;

/// <summary>A draft has asked as often as it may.</summary>
internal sealed class RequestsSpentException() : Exception("no request is left");
