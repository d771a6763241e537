using System.Globalization;
using System.Text.Json;

namespace Cursiva.Core.Tables;

/// <summary>SQL that the engine refused.</summary>
/// <param name="what">What is wrong, in the engine's words.</param>
/// <param name="position">Character in the SQL, from 0, or null when the engine names none.</param>
public sealed class SqlException(string what, int? position) : Exception(what)
{
    /// <summary>The offset in the SQL, in characters from 0; null where it is not known.</summary>
    public int? Position { get; } = position;

    /// <summary>Reads the engine's error, which is JSON.</summary>
    internal static SqlException Of(string error)
    {
        try
        {
            using var document = JsonDocument.Parse(error);
            var root = document.RootElement;
            var message = root.GetProperty("exception_message").GetString() ?? error;
            int? position = root.TryGetProperty("position", out var place) && int.TryParse(
                place.GetString(), NumberStyles.None, CultureInfo.InvariantCulture, out var number)
                ? number
                : null;
            return new SqlException(OneLine(message), position);
        }
        catch (Exception parse) when (parse is JsonException or KeyNotFoundException or InvalidOperationException)
        {
            return new SqlException(OneLine(error), null);
        }
    }

    private static string OneLine(string text) =>
        string.Join(' ', text.Split('\n', StringSplitOptions.RemoveEmptyEntries | StringSplitOptions.TrimEntries));
}
