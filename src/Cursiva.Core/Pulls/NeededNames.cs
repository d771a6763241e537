using Cursiva.Core.Jobs;

namespace Cursiva.Core.Pulls;

/// <summary>The names that the placeholders of a job use: what strands have to remember of the rows that they are made from.</summary>
internal static class NeededNames
{
    public static IReadOnlySet<string> Of(Job job)
    {
        var names = new HashSet<string>(job.Strands.Names, StringComparer.Ordinal);
        foreach (var pull in job.Pulls)
            names.UnionWith(new NamesOfRequest(pull).All);
        return names;
    }
}
