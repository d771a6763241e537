using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>
/// A way in which the next page of a listing is found, as a job declares it. The class that follows a style declares it, too: see
/// <see cref="PagingStyles"/>.
/// </summary>
public abstract class PagingStyle
{
    /// <summary>The keys of <c>paging:</c>, each of which chooses it; empty where it is chosen otherwise.</summary>
    public IReadOnlyList<Key> Keys { get; init; } = [];

    /// <summary>Whether a pull chooses it without <c>paging:</c>.</summary>
    internal Func<SectionReader, bool> IsChosenBy { get; init; } = _ => false;

    /// <summary>Adds what its keys say to what every style has.</summary>
    internal Func<SectionReader, Reading, Paging, Paging> Read { get; init; } = (_, _, paging) => paging;

    /// <summary>Whether the listing has one page, as a pull without <c>paging:</c> has.</summary>
    public bool HasOnePage { get; init; }

    /// <summary>Whether a page can be asked for without knowing the one before.</summary>
    public bool IsCounted { get; init; }

    /// <summary>Whether what is counted are pages, so that an answer may tell how many there are.</summary>
    public bool CountsPages { get; init; }

    /// <summary>Whether the answer is read as a stream, and has no pages.</summary>
    public bool IsStream { get; init; }

    /// <summary>Whether the next request has values that it sends, and which the job says where to.</summary>
    public bool SendsValues { get; init; }

    /// <summary>Whether a page behind the last one is asked for, and may be an error.</summary>
    public bool AsksBehindTheEnd { get; init; }

    /// <summary>Whether the last page may lead to the changes since.</summary>
    public bool MayLeadToChanges { get; init; }

    /// <summary>The name of its first key, for messages.</summary>
    public override string ToString() => Keys.Count > 0 ? Keys[0].Name : "no paging";
}
