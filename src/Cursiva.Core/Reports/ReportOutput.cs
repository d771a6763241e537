using System.IO.Compression;
using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using ZstdSharp;

namespace Cursiva.Core.Reports;

/// <summary>One file of a report while it is written.</summary>
internal sealed class ReportOutput : IDisposable
{
    private readonly DiskStream _file;
    private readonly Stream _packed;
    private readonly IReportWriter _writer;
    private bool _isFinished;

    /// <param name="scratchPath">A place for what a format must put together before it is written.</param>
    public ReportOutput(ReportFile file, string path, DiskStream stream, Report report, ReportContext context, string scratchPath)
    {
        (Format, Path, _file) = (file.Format, path, stream);
        _packed = file.Packing switch
        {
            FilePacking.Gzip => new GZipStream(stream, CompressionLevel.Optimal, leaveOpen: true),
            FilePacking.Zstd => new CompressionStream(stream, 3, leaveOpen: true),
            FilePacking.None => stream,
        };
        _writer = ((WrittenFormat)file.Format).Open(new FormatTarget(_packed, report, context, scratchPath));
    }

    public FileFormat Format { get; }

    public string Path { get; }

    /// <summary>Bytes written so far.</summary>
    public long Bytes => _file.Length;

    public IReportWriter Writer => _writer;

    /// <summary>Whether the file shows a part.</summary>
    public bool Shows(Report report, Part part) => Format.Holds switch
    {
        FormatHolds.OneTable => part == report.OnlyTable,
        FormatHolds.OneChart => part.IsChart,
        FormatHolds.Everything => true,
    };

    /// <summary>Makes the file durable. It is whole then.</summary>
    public void Finish()
    {
        // The writer lets go before the packer ends the file: whatever it still flushes has to be packed, too.
        _writer.End();
        _writer.Dispose();
        if (_packed != _file)
            _packed.Dispose();
        _file.Flush();
        _isFinished = true;
    }

    public void Dispose()
    {
        if (!_isFinished)
            Drop();
        _file.Dispose();
    }

    private void Drop()
    {
        _writer.Dispose();
        if (_packed != _file)
        {
            try
            {
                _packed.Dispose();
            }
            catch (IOException)
            {
                // The disk is full, which is told already.
            }
        }
    }
}
