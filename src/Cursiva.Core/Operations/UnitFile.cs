namespace Cursiva.Core.Operations;

/// <summary>A file of a systemd unit.</summary>
/// <param name="Name">Its name: <c>cursiva-JOB.service</c>.</param>
public sealed record UnitFile(string Name, string Text);
