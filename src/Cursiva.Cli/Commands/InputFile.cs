using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary>A file that a command line names, or standard input.</summary>
internal static class InputFile
{
    /// <summary>Stands for standard input.</summary>
    public const string StandardInput = "-";

    /// <summary>Reads it whole.</summary>
    /// <param name="refuse">Tells that it cannot be read, with the reason.</param>
    /// <exception cref="RefusedException">It cannot be read.</exception>
    public static async Task<byte[]> ReadAsync(string file, Func<string, Refusal> refuse, CancellationToken cancel)
    {
        try
        {
            if (file != StandardInput)
                return await File.ReadAllBytesAsync(file, cancel);
            using var content = new MemoryStream();
            await using var input = Console.OpenStandardInput();
            await input.CopyToAsync(content, cancel);
            return content.ToArray();
        }
        catch (Exception error) when (error is IOException or UnauthorizedAccessException)
        {
            throw new RefusedException(refuse(error.Message), error);
        }
    }
}
