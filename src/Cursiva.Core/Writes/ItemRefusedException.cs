namespace Cursiva.Core.Writes;

/// <summary>An item that cannot be sent as it is, or that the other side does not take; the others go on.</summary>
public sealed class ItemRefusedException(string what) : Exception(what);
