using System.Text;
using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Pulls;

/// <summary>Values of the last row are sent back.</summary>
internal sealed class KeysetStyle(Paging paging) : SendingPager(paging)
{
    private static readonly Key Keyset = new(
        "keyset",
        KeyKind.Pointers,
        "the field whose last value the next page starts after; a list of fields if rows can share the first one's value")
    {
        Example = "/id",
    };

    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(paging => new KeysetStyle(paging))
    {
        Keys = [Keyset],
        SendsValues = true,
        AsksBehindTheEnd = true,
        Read = (section, _, paging) => paging with { Places = section.Pointers(Keyset) },
    };

    /// <summary>Whether it is one value, which rows may share.</summary>
    public bool IsSingle => Paging.Places.Count == 1;

    public override bool NeedsRows => true;

    public override string Words(Pull pull) => $"keyset on {string.Join(" and ", Paging.Places)} sent {Targets}";

    public override string? LastKey(ReadOnlySpan<byte> lines)
    {
        if (lines.Length < 2)
            return null;
        var row = lines[(lines[..^1].LastIndexOf((byte)'\n') + 1)..^1];
        var values = new List<string>();
        foreach (var place in Paging.Places)
        {
            var value = JsonFind.Raw(row, place);
            if (value.IsEmpty || value[0] is (byte)'n' or (byte)'{' or (byte)'[')
                throw new PageException($"the last row has no value at keyset: {place.Text}");
            values.Add(Encoding.UTF8.GetString(value));
        }

        return SentValues.Join(values);
    }

    /// <summary>Whether the last two rows of a page have the same key: rows that share it may lie on both sides of its end.</summary>
    /// <param name="lines">The rows as JSON lines.</param>
    public bool EndsInTie(ReadOnlySpan<byte> lines)
    {
        if (lines.Length < 2 || lines[..^1].LastIndexOf((byte)'\n') is not (>= 0 and var end))
            return false;
        return LastKey(lines) == LastKey(lines[..(end + 1)]);
    }

    protected override IReadOnlyList<string> Values(string position) => SentValues.Split(position, Paging.Places.Count);

    protected override Way Behind(PageFacts page, string? position) =>
        page.Scan.Rows == 0 ? Way.End(Ending.EmptyPage) : IsShort(page) ? Way.End(Ending.ShortPage) : Way.On(page.LastKey!);
}
