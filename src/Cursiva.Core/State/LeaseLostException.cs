namespace Cursiva.Core.State;

/// <summary>A lease ended before its holder was done: it was not heard of for too long, and somebody else may go on.</summary>
/// <param name="name">What the lease is for.</param>
public sealed class LeaseLostException(string name)
    : IOException($"this machine was silent for too long and no longer holds '{name}': another one may have taken over");
