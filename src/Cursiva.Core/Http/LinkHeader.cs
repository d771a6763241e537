namespace Cursiva.Core.Http;

/// <summary>The Link header (RFC 8288 section 3).</summary>
public static class LinkHeader
{
    /// <summary>The target of the first link with a relation; null when there is none.</summary>
    /// <param name="header">The field's value; several fields joined by commas.</param>
    /// <param name="relation">Compared without regard to case (section 2.1.1).</param>
    /// <param name="context">The address of the answer: links that are about another one (<c>anchor</c>, section 3.2) do not count. Null
    /// takes none of those.</param>
    public static string? Find(string header, string relation, Uri? context = null)
    {
        var at = 0;
        while ((at = header.IndexOf('<', at)) >= 0)
        {
            var end = header.IndexOf('>', at);
            if (end < 0)
                return null;
            var target = header[(at + 1)..end];
            at = end + 1;
            if (HasRelation(header, ref at, relation, context))
                return target.Trim();
        }

        return null;
    }

    // Reads parameters up to the comma that ends the link; the first rel counts (section 3.3).
    private static bool HasRelation(string header, ref int at, string relation, Uri? context)
    {
        bool? found = null;
        var isAboutThis = true;
        while (at < header.Length)
        {
            while (at < header.Length && header[at] is ' ' or '\t' or ';')
                at++;
            if (at >= header.Length || header[at] == ',')
                break;
            var start = at;
            while (at < header.Length && header[at] is not ('=' or ';' or ','))
                at++;
            var name = header[start..at].Trim();
            var value = at < header.Length && header[at] == '=' ? Value(header, ref at) : "";
            if (name.Equals("anchor", StringComparison.OrdinalIgnoreCase))
                isAboutThis = context is not null
                    && Uri.TryCreate(context, value, out var about)
                    && about.GetLeftPart(UriPartial.Path) == context.GetLeftPart(UriPartial.Path);
            if (name.Equals("rel", StringComparison.OrdinalIgnoreCase))
                found ??= value.Split(' ', StringSplitOptions.RemoveEmptyEntries).Contains(relation, StringComparer.OrdinalIgnoreCase);
        }

        return found == true && isAboutThis;
    }

    private static string Value(string header, ref int at)
    {
        at++;
        while (at < header.Length && header[at] is ' ' or '\t')
            at++;
        if (at < header.Length && header[at] == '"')
        {
            var text = new System.Text.StringBuilder();
            for (at++; at < header.Length && header[at] != '"'; at++)
            {
                if (header[at] == '\\' && at + 1 < header.Length)
                    at++;
                text.Append(header[at]);
            }

            at++;
            return text.ToString();
        }

        var start = at;
        while (at < header.Length && header[at] is not (';' or ','))
            at++;
        return header[start..at].Trim();
    }
}
