namespace Cursiva.Core.State;

/// <summary>A change of a landing that machines share; changes count in the order in which they were made.</summary>
public abstract record StoredChange;
