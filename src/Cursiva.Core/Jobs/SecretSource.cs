using System.Text.Json.Serialization;

namespace Cursiva.Core.Jobs;

/// <summary>
/// Where a secret is: <c>env:NAME</c>, <c>file:PATH</c>, <c>file:PATH#/pointer</c>, <c>kept:NAME</c> or <c>systemd:NAME</c>. Made only
/// while
/// the job (or the command line) is read: no text that was filled in later becomes one (promise 12).
/// </summary>
/// <param name="Pointer">The place inside a JSON file, when the source has one.</param>
public sealed record SecretSource(string Kind, string Name, [property: JsonIgnore] JsonPointer? Pointer)
{
    /// <summary>The prefix of an environment variable.</summary>
    public const string Environment = "env";
    /// <summary>The prefix of a file.</summary>
    public const string File = "file";
    /// <summary>The prefix of a name in Cursiva's own store.</summary>
    public const string Kept = "kept";
    /// <summary>The prefix of a systemd credential.</summary>
    public const string Systemd = "systemd";

    /// <summary>What a secret source has to look like, for messages.</summary>
    public const string Right = "write env:NAME, file:PATH, kept:NAME or systemd:NAME, never the secret itself";

    private static readonly string[] s_kinds = [Environment, File, Kept, Systemd];

    /// <summary>The source as it is written.</summary>
    public string Text => $"{Kind}:{Name}{(Pointer is null ? "" : "#" + Pointer.Text)}";

    /// <summary>The kind of source that a text of the job file begins like; null when it is a plain text.</summary>
    public static string? KindOf(string text)
    {
        var colon = text.IndexOf(':', StringComparison.Ordinal);
        return colon > 0 && colon + 1 < text.Length && s_kinds.Contains(text[..colon]) ? text[..colon] : null;
    }

    /// <summary>Reads a source; null when the text names none.</summary>
    public static SecretSource? TryParse(string text)
    {
        if (KindOf(text) is not { } kind)
            return null;
        var name = text[(kind.Length + 1)..];
        var hash = kind == File ? name.IndexOf("#/", StringComparison.Ordinal) : -1;
        if (hash < 0)
            return new SecretSource(kind, name, null);
        return JsonPointer.TryParse(name[(hash + 1)..]) is { } pointer ? new SecretSource(kind, name[..hash], pointer) : null;
    }

    /// <inheritdoc/>
    public override string ToString() => Text;
}
