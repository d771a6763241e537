using System.Text.RegularExpressions;
using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Names the line of the job file that a next step speaks of.</summary>
public static partial class StepPlace
{
    /// <summary>The step, with the identity's name in its commands, and the place of the first key in it that belongs to the identity or the API; as it is when it names none.</summary>
    public static string? Of(string? step, DeclaredIdentity? identity, Api? api)
    {
        if (identity is not null)
            step = step?.Replace(" IDENTITY", " " + identity.Name, StringComparison.Ordinal);
        foreach (var key in step is null ? [] : Keys().Matches(step).Select(match => match.Groups[1].Value))
        {
            if (identity is not null && IdentityKeys.Section.Keys.Any(own => own.Name == key))
                return $"{step} ({identity.At(key)})";
            if (api is not null && JobKeys.ApiSection.Keys.Any(own => own.Name == key))
                return $"{step} ({api.Place})";
        }

        return step;
    }

    [GeneratedRegex(@"(?<![\w-])([a-z][a-z-]*):(?=[\s,;)]|$)")]
    private static partial Regex Keys();
}
