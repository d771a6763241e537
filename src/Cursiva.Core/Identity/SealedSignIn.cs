namespace Cursiva.Core.Identity;

/// <summary>A token request, encrypted as the identity says.</summary>
/// <param name="Parameters">The parameters, some of them encrypted; null where the body is encrypted as a whole.</param>
/// <param name="Body">The encrypted body; null where there are parameters.</param>
/// <param name="BodyType">The media type of the body.</param>
/// <param name="FreshKey">The random key that went along; null for none.</param>
internal sealed record SealedSignIn(
    IReadOnlyList<KeyValuePair<string, string>>? Parameters, byte[]? Body, string BodyType, byte[]? FreshKey);
