namespace Cursiva.Core.Tests.Tables;

/// <summary>Tables whose rows are staged.</summary>
public sealed class StagedPullTableTests() : PullTableTests(streams: false);
