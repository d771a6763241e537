using Cursiva.Core.Files;
using Microsoft.Data.Sqlite;

namespace Cursiva.Core.Landing;

/// <summary>
/// Verifies a landing that nobody writes: its index, and the checksum of every page that was committed. Nothing is changed.
/// </summary>
public static class LandingCheck
{
    /// <summary>What is wrong with a landing; empty where nothing is.</summary>
    /// <param name="folder">The folder of the landing; one without an index has nothing to verify.</param>
    /// <param name="pages">Pages that were verified.</param>
    public static IReadOnlyList<string> Look(IDisk disk, string folder, out long pages)
    {
        pages = 0;
        var path = Path.Combine(folder, "pages.db");
        if (!disk.Exists(path))
            return [];
        var found = new List<string>();
        try
        {
            using var index = new PageIndex(disk, path);
            if (index.Damage() is { } damage)
                return [$"{path}: {damage}"];
            foreach (var pull in index.Pulls())
            {
                var committed = index.PlacesOf(pull, withEmpty: true);
                pages += committed.Count;
                found.AddRange(Of(disk, Path.Combine(folder, pull), pull, committed));
            }
        }
        catch (SqliteException error)
        {
            found.Add($"{path}: {error.Message}");
        }

        return found;
    }

    private static IEnumerable<string> Of(IDisk disk, string folder, string pull, IReadOnlyList<LandedPlace> committed)
    {
        var gone = committed.Where(page => page.Length > 0)
            .Select(page => SegmentFolder.PathOf(folder, page.Segment))
            .Distinct()
            .Where(segment => !disk.Exists(segment))
            .ToList();
        if (gone.Count > 0)
            return gone.Select(segment => $"{segment} is gone");
        try
        {
            SegmentFolder.CheckWhole(pull, committed);
            SegmentFolder.Verify(disk, folder, pull, committed);
            return [];
        }
        catch (LandingDamagedException error)
        {
            return [error.Message];
        }
    }
}
