namespace Cursiva.Core.Jobs;

/// <summary>Where a secret is: <c>env:NAME</c>, <c>file:PATH</c>, <c>file:PATH#/pointer</c>, <c>kept:NAME</c> or <c>systemd:NAME</c>.</summary>
/// <param name="Pointer">The place inside a JSON file, when the source has one.</param>
public sealed record SecretSource(string Kind, string Name, JsonPointer? Pointer)
{
    public const string Environment = "env";
    public const string File = "file";
    public const string Kept = "kept";
    public const string Systemd = "systemd";

    public const string Right = "write env:NAME, file:PATH, kept:NAME or systemd:NAME, never the secret itself";

    private static readonly string[] s_kinds = [Environment, File, Kept, Systemd];

    /// <summary>Reads a source; null when the text names none.</summary>
    public static SecretSource? TryParse(string text)
    {
        var colon = text.IndexOf(':', StringComparison.Ordinal);
        if (colon < 1 || colon + 1 == text.Length || !s_kinds.Contains(text[..colon]))
            return null;
        var (kind, name) = (text[..colon], text[(colon + 1)..]);
        var hash = kind == File ? name.IndexOf("#/", StringComparison.Ordinal) : -1;
        if (hash < 0)
            return new SecretSource(kind, name, null);
        return JsonPointer.TryParse(name[(hash + 1)..]) is { } pointer ? new SecretSource(kind, name[..hash], pointer) : null;
    }

    public override string ToString() => $"{Kind}:{Name}{(Pointer is null ? "" : "#" + Pointer.Text)}";
}
