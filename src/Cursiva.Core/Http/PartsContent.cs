using System.Net;

namespace Cursiva.Core.Http;

/// <summary>A body of several parts, one after another, none of which is in memory as a whole.</summary>
internal sealed class PartsContent(IReadOnlyList<BodyPart> parts) : HttpContent
{
    protected override bool TryComputeLength(out long length)
    {
        length = parts.Sum(part => part.Length);
        return true;
    }

    protected override Task SerializeToStreamAsync(Stream stream, TransportContext? context) =>
        SerializeToStreamAsync(stream, context, CancellationToken.None);

    protected override async Task SerializeToStreamAsync(Stream stream, TransportContext? context, CancellationToken cancellationToken)
    {
        foreach (var part in parts)
            await part.CopyToAsync(stream, cancellationToken);
    }
}
