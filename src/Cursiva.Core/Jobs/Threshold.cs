namespace Cursiva.Core.Jobs;

/// <summary>A value at which a chart has a line.</summary>
/// <param name="Words">What the line stands for, for people.</param>
public sealed record Threshold(double Value, string Words);
