namespace Cursiva.Core.Reports;

/// <summary>What pages look like and do, from the resources of the program.</summary>
internal static class PageStyle
{
    /// <summary>The style sheet of every page.</summary>
    public static string Style => Read("page.css");

    /// <summary>The script of a report's page.</summary>
    public static string Script => Read("page.js");

    private static string Read(string name)
    {
        using var reader = new StreamReader(typeof(PageStyle).Assembly.GetManifestResourceStream(name)!);
        return reader.ReadToEnd();
    }
}
