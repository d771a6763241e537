using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads what leads somewhere: addresses of servers, and files of this machine.</summary>
internal static class SectionAddresses
{
    /// <summary>An address that credentials may be sent to: https, or http on the loopback address.</summary>
    public static Uri? Address(this SectionReader section, Key key)
    {
        if (section.RawText(key) is not { } raw)
            return null;
        var text = section.Reading.FillAddress(raw, section.At(key));
        var before = text.Length - text.TrimStart().Length;
        if (text.Trim().Length != text.Length)
            section.Reading.Add(section.At(key), $"white space {(before > 0 ? "before" : "after")} the address in {key.Name}", "remove it");
        else if (section.Reading.Strands.StandsInFor(raw))
            return Uri.TryCreate(text, UriKind.Absolute, out var template) && template.Scheme is "http" or "https"
                ? template
                : new Uri("https://strand.invalid/");
        else if (!Uri.TryCreate(text, UriKind.Absolute, out var uri) || uri.Scheme is not ("http" or "https"))
            section.Reading.Add(section.At(key), $"'{text}' is not a web address", $"write {key.Gist}");
        else if (uri.Scheme == "http" && !uri.IsLoopback)
            section.Reading.Add(
                section.At(key),
                $"'{text}' would carry credentials unencrypted",
                "use https; http is accepted only on the loopback address");
        else if (uri.Fragment.Length > 0 || uri.UserInfo.Length > 0)
            section.Reading.Add(section.At(key), $"{key.Name} has a fragment or a user in it", "write only scheme, host, port and path");
        else
            return uri;
        return null;
    }

    /// <summary>The path of a file of this machine, inputs filled in; values of rows never name one.</summary>
    public static string? LocalFile(this SectionReader section, Key key)
    {
        if (section.RawText(key) is not { } raw)
            return null;
        if (section.Reading.Strands.IsIn(raw))
            section.Reading.Add(
                section.At(key),
                $"{key.Name} of {section.Title} would let a value of a row name a file of this machine",
                "write the path; only inputs can fill it in");
        return section.Reading.Fill(raw, section.At(key));
    }
}
