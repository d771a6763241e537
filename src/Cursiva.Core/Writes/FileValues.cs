using System.Globalization;
using System.Security.Cryptography;
using System.Text.Json;
using Cursiva.Core.Jobs;
using Cursiva.Core.Pulls;

namespace Cursiva.Core.Writes;

/// <summary>What steps of an upload know of a file.</summary>
public static class FileValues
{
    internal const string Name = UploadWay.File + ".name";
    internal const string Bytes = UploadWay.File + ".bytes";
    internal const string Type = UploadWay.File + ".type";
    internal const string Digest = UploadWay.File + ".sha256";

    // Where it lies: no placeholder may ask for it.
    internal const string Path = UploadWay.File + " at";

    private static readonly Dictionary<string, string> s_types = new(StringComparer.OrdinalIgnoreCase)
    {
        [".csv"] = "text/csv; charset=utf-8",
        [".json"] = "application/json",
        [".jsonl"] = "application/x-ndjson",
        [".xlsx"] = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
        [".html"] = "text/html; charset=utf-8",
        [".md"] = "text/markdown; charset=utf-8",
        [".svg"] = "image/svg+xml",
        [".png"] = "image/png",
        [".parquet"] = "application/vnd.apache.parquet",
        [".sqlite"] = "application/vnd.sqlite3",
    };

    /// <summary>A file as an item.</summary>
    /// <param name="key">What tells it apart from others.</param>
    /// <param name="name">Its name for the receiver.</param>
    /// <param name="path">Where it lies.</param>
    public static WriteItem Item(IReadOnlyList<string> key, string name, string path)
    {
        using var stream = File.OpenRead(path);
        var digest = Convert.ToHexStringLower(SHA256.HashData(stream));
        var last = name[(name.LastIndexOf('/') + 1)..];
        return new WriteItem(JsonSerializer.Serialize([.. key], WriteJson.Default.StringArray), digest, new Dictionary<string, string>
        {
            [Name] = Json(last),
            [Bytes] = stream.Length.ToString(CultureInfo.InvariantCulture),
            [Type] = Json(s_types.GetValueOrDefault(System.IO.Path.GetExtension(name), "application/octet-stream")),
            [Digest] = Json(digest),
            [Path] = Json(path),
        });
    }

    internal static long Length(ItemValues values) => long.Parse(values.Needed(Bytes), CultureInfo.InvariantCulture);

    private static string Json(string text) => JsonSerializer.Serialize(text, PlainJson.Default.String);
}
