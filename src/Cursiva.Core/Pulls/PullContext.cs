using System.IO.Hashing;
using System.Runtime.InteropServices;
using Cursiva.Core.Encryption;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Landing;

namespace Cursiva.Core.Pulls;

/// <summary>One pull while it is being filled: its landing, its progress, and who is repeated for its rows.</summary>
internal sealed class PullContext : IDisposable
{
    private readonly HashSet<string> _restarted = new(StringComparer.Ordinal);
    private readonly HashSet<string> _told = new(StringComparer.Ordinal);
    private readonly HashSet<ulong> _paths = [];
    private readonly Lock _gate = new();
    private readonly Lazy<bool> _ignoresCase;

    public PullContext(Pull pull, PullServices services)
    {
        Pull = pull;
        Services = services;
        _ignoresCase = new Lazy<bool>(IgnoresCase);
        Hands = services.Hands?.Take(pull) == true ? services.Hands : null;
        Landing = services.Landing.Open(pull.Name, tells: Hands is null);
        Progress = new PullProgress(pull.Name, Landing.Rows, Landing.Pages, pull.Repeats);
        var (ledOn, told) = Landing.Seen();
        Places = new DeclaredPlaces(pull, (ledOn, told, Landing.Rows > 0), services.Past.LedOn(pull), services.Warn);
        Schemas = new DocumentSchemas(services.Job.Folder);
        Scanners = new ScannerPool(new PageShape(pull.Rows, pull.Drop, pull.Paging));
    }

    public Pull Pull { get; }

    public PullServices Services { get; }

    public PullLanding Landing { get; }

    /// <summary>Who fetches the strands; null where this machine does.</summary>
    public IStrandHands? Hands { get; }

    public PullProgress Progress { get; }

    public ScannerPool Scanners { get; }

    /// <summary>The schemas that rows and bodies are compared with.</summary>
    public DocumentSchemas Schemas { get; }

    /// <summary>Which of the declared places the pull's pages had.</summary>
    public DeclaredPlaces Places { get; }

    /// <summary>The feeds of strands that this pull's rows make.</summary>
    public List<StrandFeed> Feeds { get; } = [];

    /// <summary>Whether a strand has started over in this start already.</summary>
    public bool WasRestarted(Strand strand)
    {
        lock (_gate)
            return _restarted.Contains(strand.Key);
    }

    /// <summary>Notes that a strand starts over.</summary>
    public void MarkRestarted(string strand)
    {
        lock (_gate)
            _restarted.Add(strand);
    }

    /// <summary>Hands whole pages on to the strands that are made from their rows.</summary>
    public void HandOn(Strand strand, LandedPage page)
    {
        foreach (var feed in Feeds)
            feed.Add(Landing, strand, page);
    }

    /// <summary>Hands on what was landed before this start.</summary>
    public void HandOnLanded()
    {
        foreach (var pages in Landing.Committed().GroupBy(page => page.Strand))
        {
            var strand = Landing.Strand(pages.Key) is { } begun ? Strand.Of(begun) : Strand.Only;
            var whole = pages.Last().IsPiece ? Landing.Last(pages.Key)?.Page ?? -1 : int.MaxValue;
            foreach (var page in pages.Where(page => page.Page <= whole))
                HandOn(strand, page);
        }
    }

    /// <summary>The places as they are known once the pull has ended: of what other machines fetched, the landing tells.</summary>
    public async Task<DeclaredPlaces> PlacesAsync()
    {
        if (Hands is null)
            return Places;
        await Services.Landing.CommitAsync(CancellationToken.None);
        var (ledOn, told) = Landing.Seen(asOfNow: true);
        return new DeclaredPlaces(Pull, (ledOn, told, Progress.Rows > 0), Services.Past.LedOn(Pull), Services.Warn);
    }

    /// <summary>Claims the path of a downloaded file.</summary>
    /// <returns>False when another strand has it.</returns>
    public bool Claim(string path)
    {
        if (_ignoresCase.Value)
            path = FileNames.Folded(path);
        lock (_gate)
            return _paths.Add(XxHash64.HashToUInt64(MemoryMarshal.AsBytes(path.AsSpan())));
    }

    /// <summary>Warns, once for each text.</summary>
    public void Warn(string what)
    {
        bool isNew;
        lock (_gate)
            isNew = _told.Add(what);
        if (isNew)
            Services.Warn(what);
    }

    public void Dispose() => Scanners.Dispose();

    private bool IgnoresCase()
    {
        Services.Disk.CreateFolder(Services.OutFolder, shared: true);
        return FileNames.IgnoreCase(Services.Disk, Services.OutFolder);
    }
}
