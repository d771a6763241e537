namespace Cursiva.Core.Writes;

/// <summary>What is to be done about an item.</summary>
/// <param name="Step">The first step that changes something.</param>
/// <param name="Values">What its steps are filled in with so far.</param>
/// <param name="Found">The looks that found something.</param>
/// <param name="Begun">The run in which that step began to be sent; 0 where it did not.</param>
/// <param name="Removes">Whether the item is no longer there, and its steps are those of <c>remove:</c>.</param>
public sealed record PlannedItem(
    WriteItem Item,
    string Step,
    IReadOnlyDictionary<string,
    string> Values,
    IReadOnlyDictionary<string,
    bool> Found,
    int Begun,
    bool Removes);
