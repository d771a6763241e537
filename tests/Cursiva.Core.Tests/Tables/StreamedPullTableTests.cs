namespace Cursiva.Core.Tests.Tables;

/// <summary>Tables whose rows are read where they landed.</summary>
public sealed class StreamedPullTableTests() : PullTableTests(streams: true);
