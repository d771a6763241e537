using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Apis;
using Cursiva.Core.Files;
using Cursiva.Core.Http;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Pulls;

/// <summary>
/// Keeps the file behind a request, and lands one row that tells of it. What was cut short goes on where it stopped, where the
/// server has ranges and the file is still the same (RFC 9110 sections 13.1.5 and 14).
/// </summary>
internal sealed class DownloadedFile(StrandRun run)
{
    /// <summary>Downloads the file, unless its row is landed.</summary>
    /// <exception cref="RefusedException">The API refused, or the file cannot be kept.</exception>
    public async Task RunAsync(CancellationToken cancel)
    {
        var path = PathOf();
        var request = run.Requests.At(null) with
        {
            Streams = true,
            Verbatim = true,
            Accept = run.Pull.Request.Accept == "application/json" ? "*/*" : run.Pull.Request.Accept,
        };
        for (var attempt = 1; ; attempt++)
        {
            try
            {
                await FetchAsync(request, path, cancel);
                return;
            }
            catch (Exception error) when (error is IOException or UnauthorizedAccessException)
            {
                throw new RefusedException(new Refusal(
                    Outcome.ReportFailed, $"a file of pull '{run.Pull.Name}'{run.Title} cannot be saved as {path}: {error.Message}")
                {
                    Cause = error is PathTooLongException
                        ? "the name is longer than the file system allows"
                        : "the folder is not writable for this user, the disk is full, or a link is in the way",
                    NextStep = "make room, or make the folder writable, or change download:, and run again to resume it",
                }, error);
            }
            catch (TransportException error) when (attempt < Retries.BrokenDownload)
            {
                await run.WaitToRepeatAsync(request, error.Message, attempt, cancel);
            }
            catch (TransportException error)
            {
                throw new RefusedException(
                    Catalogue.Refuse(
                        new Facts(Desk.Api, error.Trouble),
                        $"a file of pull '{run.Pull.Name}'{run.Title} is incomplete: {error.Message}",
                        null,
                        $"GET {ShownAddress.Of(request.Uri)}"),
                    error);
            }
        }
    }

    private async Task FetchAsync(ApiRequest request, string path, CancellationToken cancel)
    {
        var disk = run.Services.Disk;
        // Named by a digest, so that the file of another row cannot be called the same.
        var temporary = Path.Combine(
            Path.GetDirectoryName(path)!,
            ".cursiva-" + Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(Path.GetFileName(path))))[..24]);
        var (part, validatorPath) = (temporary + ".part", temporary + ".version");
        PlantedLinks.Check(run.Services.OutFolder, Path.GetDirectoryName(path)!);
        disk.CreateFolder(Path.GetDirectoryName(path)!, shared: true);
        var kept = disk.Exists(validatorPath) && disk.Exists(part)
            ? Encoding.UTF8.GetString(WholeFile.Read(disk, validatorPath)).Split('\n')
            : null;
        byte[] row;
        using (var file = disk.Open(part, shared: true))
        {
            if (kept is null)
                file.SetLength(0);
            var ranged = file.Length > 0
                ? request with
                {
                    OwnHeaders = [new("Range", $"bytes={file.Length.ToString(CultureInfo.InvariantCulture)}-"), new("If-Range", kept![0])],
                    Expects = IsBehindTheEnd,
                }
                : request;
            using var answer = await run.SendAsync(ranged, null, goesOn: false, cancel);
            if (IsBehindTheEnd(answer) && (answer.ContentHeaders?.ContentRange?.Length != file.Length || Validator(answer) != kept![0]))
            {
                // Another length or version, or none that is told: what is there may be of another file.
                disk.Delete(validatorPath);
                throw new TransportException(Trouble.CutOff, "the file differs from the part that was already saved");
            }

            // Behind the end there is nothing to fetch: a stop came between the last byte and the rename.
            if (!IsBehindTheEnd(answer))
            {
                if (answer.Status != 206)
                    file.SetLength(0);
                kept = [Validator(answer) ?? "", answer.ContentType];
                if (kept[0].Length > 0)
                    WholeFile.Write(disk, validatorPath, Encoding.UTF8.GetBytes(string.Join('\n', kept)));
                else
                    disk.Delete(validatorPath);
                await CopyAsync(answer, file, run.Client.LargestFile, cancel);
            }

            file.Flush();
            row = Row(path, file, kept is [_, var type] ? type : "");
        }

        // The row counts once the file is there under its name; the other way round a stop could leave a row without a file.
        disk.Rename(part, path);
        disk.FlushFolder(Path.GetDirectoryName(path)!);
        disk.Delete(validatorPath);
        run.Land(row, 1, null, ended: Ending.File);
    }

    private static async Task CopyAsync(Answer answer, IDiskFile file, long largest, CancellationToken cancel)
    {
        var (offset, buffer) = (file.Length, new byte[128 * 1024]);
        var expected = answer.ContentHeaders?.ContentLength is { } length ? offset + length : (long?)null;
        if (expected > largest)
            throw BoundedStream.TooLarge(largest);
        while (await answer.Stream!.ReadAsync(buffer, cancel) is > 0 and var count)
        {
            if (offset + count > largest)
                throw BoundedStream.TooLarge(largest);
            file.Write(buffer.AsSpan(0, count), offset);
            offset += count;
        }

        if (expected is { } whole && whole != offset)
            throw new TransportException(Trouble.CutOff, "the file is shorter than announced");
    }

    // 416 (RFC 9110 section 15.5.17).
    private static bool IsBehindTheEnd(Answer answer) => answer.Status == 416;

    private byte[] Row(string path, IDiskFile file, string contentType) => Encoding.UTF8.GetBytes(new JsonObject
    {
        ["file"] = Path.GetRelativePath(run.Services.OutFolder, path),
        ["bytes"] = file.Length,
        ["sha256"] = Digest(file),
        ["content_type"] = contentType.Length > 0 ? contentType : null,
    }.ToJsonString() + "\n");

    private static string Digest(IDiskFile file)
    {
        using var digest = IncrementalHash.CreateHash(HashAlgorithmName.SHA256);
        var buffer = new byte[128 * 1024];
        for (long offset = 0; file.Read(buffer, offset) is > 0 and var count; offset += count)
            digest.AppendData(buffer, 0, count);
        return Convert.ToHexStringLower(digest.GetHashAndReset());
    }

    // A strong validator only: a weak one says nothing about single bytes.
    private static string? Validator(Answer answer) =>
        answer.Headers.ETag is { IsWeak: false } tag
            ? tag.Tag
            : answer.ContentHeaders?.LastModified?.ToString("R", CultureInfo.InvariantCulture);

    private string PathOf()
    {
        var name = run.Pull.DownloadTo!.Fill(
            name => run.Strand.Values.Text(name) is { } value
                ? FileNames.Of(value)
                : run.Services.Inputs.GetValueOrDefault(name) ?? "none");
        var folder = Path.GetFullPath(run.Services.OutFolder);
        var path = Path.GetFullPath(Path.Combine(folder, name));
        if (!path.StartsWith(folder + "/", StringComparison.Ordinal))
            throw Wrong(
                $"a file of pull '{run.Pull.Name}'{run.Title} would be saved outside {folder}", "write a path below out: in download:");
        if (!run.Context.Claim(path))
            throw Wrong(
                $"two files of pull '{run.Pull.Name}' would be saved as {Path.GetRelativePath(folder, path)}",
                "add something that differs to download:, such as the row's id");
        return path;
    }

    private static RefusedException Wrong(string what, string next) => new(new Refusal(Outcome.ApiFailed, what) { NextStep = next });
}
