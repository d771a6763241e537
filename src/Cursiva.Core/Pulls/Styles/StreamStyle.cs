using Cursiva.Core.Jobs;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Pulls;

/// <summary>The answer is one stream of rows.</summary>
internal sealed class StreamStyle : ListingStyle
{
    private static readonly Key Stream = new(
        "stream",
        KeyKind.Choice,
        "reads the answer as one stream of rows: JSON lines, one array, a JSON text sequence (RFC 7464), or CSV with a header")
    {
        Choices = [.. Enum.GetNames<StreamForm>().Select(form => form.ToLowerInvariant())],
    };

    /// <summary>How a job declares it.</summary>
    public static FollowedStyle Declared { get; } = new(_ => new StreamStyle())
    {
        Keys = [Stream],
        IsStream = true,
        Read = (section, _, paging) => paging with
        {
            Stream = section.Choice(Stream) is { } form ? Enum.Parse<StreamForm>(form, ignoreCase: true) : StreamForm.Lines,
        },
    };

    public override string Words(Pull pull) => $"one stream ({pull.Paging.Stream.ToString().ToLowerInvariant()})";

    public override Task RunAsync(StrandRun run, CancellationToken cancel) => new StreamedListing(run).RunAsync(cancel);
}
