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
        _writer = file.Format switch
        {
            FileFormat.JsonLines => new JsonWriter(_packed, asLines: true),
            FileFormat.Json => new JsonWriter(_packed, asLines: false),
            FileFormat.Xlsx => new XlsxWriter(_packed, report, context),
            FileFormat.Sqlite => new SqliteWriter(_packed, scratchPath + ".sqlite"),
            FileFormat.Markdown => new MarkdownWriter(_packed, report, context),
            FileFormat.HtmlPage => new HtmlPageWriter(_packed, report, context),
            FileFormat.Fragment => new FragmentWriter(_packed, report, context),
            FileFormat.Svg => new ChartWriter(_packed, asPng: false, new ShownValue(context.Zone)),
            FileFormat.Png => new ChartWriter(_packed, asPng: true, new ShownValue(context.Zone)),
            FileFormat.Csv => new CsvWriter(_packed, report.Csv),
            FileFormat.Parquet => throw new InvalidOperationException("Parquet is written by the database: see ParquetFile"),
        };
    }

    public FileFormat Format { get; }

    public string Path { get; }

    /// <summary>Bytes written so far.</summary>
    public long Bytes => _file.Length;

    public IReportWriter Writer => _writer;

    /// <summary>Whether the file shows a part.</summary>
    public bool Shows(Report report, Part part) => Format switch
    {
        FileFormat.Csv or FileFormat.JsonLines or FileFormat.Json => part == report.OnlyTable,
        FileFormat.Svg or FileFormat.Png => part.IsChart,
        FileFormat.Parquet or FileFormat.Sqlite or FileFormat.Xlsx or FileFormat.Markdown or FileFormat.HtmlPage or FileFormat.Fragment => true,
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
