using Cursiva.Core.Files;

namespace Cursiva.Core.Landing;

/// <summary>Pages of an earlier run that an API may say to be as they were.</summary>
/// <param name="pages">By the values of their strand.</param>
public sealed class TaggedPages(IDisk disk, string folder, IReadOnlyDictionary<string, LandedPage> pages)
{
    /// <summary>No pages.</summary>
    public static TaggedPages None { get; } = new(new Disk(), "", new Dictionary<string, LandedPage>());

    /// <summary>The page of a strand; null when there is none.</summary>
    public LandedPage? Of(string values) => pages.GetValueOrDefault(values);

    /// <summary>Its rows; null when they are not there any more as they were, so that they have to be asked for.</summary>
    public byte[]? Read(LandedPage page)
    {
        var bytes = new byte[page.Length];
        if (page.Length == 0)
            return bytes;
        var path = SegmentFolder.PathOf(folder, page.Segment);
        if (!disk.Exists(path))
            return null;
        using var file = disk.Open(path);
        return SegmentFolder.ReadWhole(file, bytes, page.Offset) && SegmentFolder.Checksum(bytes) == page.Checksum ? bytes : null;
    }
}
