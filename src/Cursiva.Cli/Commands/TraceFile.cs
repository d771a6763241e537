using System.CommandLine;
using Cursiva.Core.Http;
using Cursiva.Core.Secrets;

namespace Cursiva.Cli.Commands;

/// <summary>The file of <c>--trace</c>.</summary>
internal static class TraceFile
{
    public static Option<string?> Option() => new("--trace")
    {
        Description = "record every request and answer in this file (HAR 1.2), with secrets removed",
    };

    /// <summary>Begins the trace; null when none is asked for.</summary>
    public static HarTrace? Open(string? path, Redactor redactor)
    {
        if (path is null)
            return null;
        // A file that is there may be somebody else's to read, or a link: it is replaced, not written into.
        File.Delete(path);
        var file = new FileStream(
            path,
            new FileStreamOptions
            {
                Mode = FileMode.CreateNew,
                Access = FileAccess.Write,
                UnixCreateMode = UnixFileMode.UserRead | UnixFileMode.UserWrite,
            });
        return new HarTrace(file, redactor, typeof(TraceFile).Assembly.GetName().Version!.ToString(2));
    }
}
