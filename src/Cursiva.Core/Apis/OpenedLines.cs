using Cursiva.Core.Http;

namespace Cursiva.Core.Apis;

/// <summary>A streamed answer each of whose lines is encrypted by itself, plain.</summary>
/// <param name="open">Opens a line.</param>
/// <param name="longest">The longest line, in bytes.</param>
internal sealed class OpenedLines(Stream inner, Func<byte[], byte[]> open, long longest) : ForwardStream
{
    private readonly byte[] _block = new byte[64 * 1024];
    private readonly MemoryStream _line = new();
    private ReadOnlyMemory<byte> _came;
    private ReadOnlyMemory<byte> _plain;
    private bool _isOver;

    /// <exception cref="Refusals.RefusedException">A line does not open.</exception>
    /// <exception cref="TransportException">A line is too long.</exception>
    public override async ValueTask<int> ReadAsync(Memory<byte> buffer, CancellationToken cancellationToken = default)
    {
        while (_plain.IsEmpty && !_isOver)
            await NextAsync(cancellationToken);
        var count = Math.Min(buffer.Length, _plain.Length);
        _plain[..count].CopyTo(buffer);
        _plain = _plain[count..];
        return count;
    }

    protected override void Dispose(bool disposing)
    {
        if (disposing)
        {
            inner.Dispose();
            _line.Dispose();
        }

        base.Dispose(disposing);
    }

    private async Task NextAsync(CancellationToken cancel)
    {
        while (true)
        {
            if (_came.IsEmpty)
            {
                var read = await inner.ReadAsync(_block, cancel);
                _came = _block.AsMemory(0, read);
                if (read == 0)
                {
                    _isOver = true;
                    Open();
                    return;
                }
            }

            var end = _came.Span.IndexOf((byte)'\n');
            _line.Write(_came.Span[..(end < 0 ? _came.Length : end)]);
            _came = end < 0 ? default : _came[(end + 1)..];
            if (_line.Length > longest)
                throw new TransportException(
                    Refusals.Trouble.NotUnderstood, $"a line of the answer is longer than {longest / (1024 * 1024)} MiB");
            if (end < 0)
                continue;
            Open();
            return;
        }
    }

    private void Open()
    {
        var line = _line.ToArray();
        _line.SetLength(0);
        if (!line.AsSpan().Trim(" \r\t"u8).IsEmpty)
            _plain = (byte[])[.. open(line), (byte)'\n'];
    }
}
