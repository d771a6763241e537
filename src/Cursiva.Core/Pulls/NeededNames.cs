using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>The names that the placeholders of a job use: what strands have to remember of the rows that they are made from.</summary>
internal static class NeededNames
{
    public static IReadOnlySet<string> Of(Job job)
    {
        var names = new HashSet<string>(job.Strands.Names, StringComparer.Ordinal);
        foreach (var pull in job.Pulls)
        {
            if (pull.Request.IsLink)
                names.UnionWith(Template.TryParse(pull.Request.Path, out _)?.Names ?? []);
            else
                names.UnionWith(PathTemplate.Names(pull.Request.Path, out _));
            if (pull.Opens is { } opens)
                names.UnionWith(PathTemplate.Names(opens.Path, out _));
            foreach (var value in pull.Request.Query.Concat(pull.Request.Headers).Select(pair => pair.Value))
                names.UnionWith(value.Names);
            names.UnionWith(pull.DownloadTo?.Names ?? []);
            names.UnionWith(pull.Request.Body?.Names ?? []);
        }

        return names;
    }
}
