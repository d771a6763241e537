using System.Globalization;
using System.Security.Cryptography;
using System.Text;
using System.Text.RegularExpressions;
using Cursiva.Core.Jobs.Shape;
using YamlDotNet.Core;
using YamlDotNet.RepresentationModel;

namespace Cursiva.Core.Jobs;

/// <summary>
/// A fingerprint of each pull: of whatever shapes its rows, and of nothing else. It covers the pull as it is written, its API and identity,
/// the inputs that these use, and the pulls that it is repeated for; not how often something is tried, what is skipped, or how rows are
/// read and reported.
/// </summary>
internal sealed partial class PullPrints(
    IReadOnlyList<SectionReader> sections, SectionReader top, IReadOnlyDictionary<string, Input> inputs)
{
    private static readonly HashSet<string> s_notOfRows = Names(
        PullKeys.SkipWhen, PullKeys.AllowSkips, PullKeys.AllowEmpty, PullKeys.Parallel, PullKeys.Columns, PullKeys.KeyOf, PullKeys.DeletedWhen, PullKeys.OddText, PullKeys.RequireOf, PayloadKeys.ValidateBody);

    private static readonly HashSet<string> s_notOfPaging = Names(
        PagingKeys.MostPages, PagingKeys.MostRows, PagingKeys.AllowMissing, PagingKeys.Optional, PagingKeys.WhenShifted);

    private static readonly HashSet<string> s_ofApi = Names(ApiKeys.Base, ApiKeys.Headers, ApiKeys.QueryParameters, SignatureKeys.Signatures);

    private static readonly HashSet<string> s_ofIdentity = Names(
        IdentityKeys.Grant, IdentityKeys.Issuer, IdentityKeys.TokenEndpoint, IdentityKeys.ClientId, IdentityKeys.Username, IdentityKeys.Scope, IdentityKeys.TokenParameters, IdentityKeys.Assertion, IdentityKeys.HeadersBeside);

    /// <summary>The fingerprints by the names of the pulls.</summary>
    public IReadOnlyDictionary<string, string> Of(IReadOnlyList<Pull> pulls, IReadOnlyDictionary<string, Api> apis)
    {
        var prints = new Dictionary<string, string>(StringComparer.Ordinal);
        var nodes = top.Children(JobKeys.Pulls).GroupBy(child => child.Name, StringComparer.Ordinal).ToDictionary(
            group => group.Key, group => group.First().Value, StringComparer.Ordinal);
        foreach (var pull in pulls)
        {
            var text = new StringBuilder();
            Write(text, nodes[pull.Name], name => !s_notOfRows.Contains(name), false);
            Write(text, Node(JobKeys.Apis, pull.Api), s_ofApi.Contains, false);
            Write(
                text, Node(JobKeys.Identities, pull.Identity ?? apis.GetValueOrDefault(pull.Api)?.Identity), s_ofIdentity.Contains, false);
            foreach (var name in NamesIn(text.ToString()).Where(inputs.ContainsKey).Order(StringComparer.Ordinal))
                text.Append(CultureInfo.InvariantCulture, $"\n{name}={(inputs[name].Drifts ? "drifts" : inputs[name].Value)}");

            // A query sees every pull above.
            foreach (var earlier in prints.Where(earlier => pull.Per is { Sql: not null } || earlier.Key == pull.Per?.Pull))
                text.Append('\n').Append(earlier.Value);
            prints[pull.Name] = Convert.ToHexStringLower(SHA256.HashData(Encoding.UTF8.GetBytes(text.ToString())))[..32];
        }

        return prints;
    }

    private YamlNode? Node(Key key, string? name) =>
        name is null
            ? null
            : sections.SelectMany(section => section.Children(key))
                .Where(child => child.Name == name)
                .Select(child => child.Value)
                .LastOrDefault();

    // The order of keys means nothing; in a body, whether a number is in quotes does.
    private static void Write(StringBuilder text, YamlNode? node, Func<string, bool> counts, bool isBody)
    {
        switch (node)
        {
            case YamlMappingNode mapping:
                text.Append('{');
                foreach (var (key, value) in mapping.Children
                    .Select(pair => ((pair.Key as YamlScalarNode)?.Value ?? "", pair.Value))
                    .Where(pair => counts(pair.Item1))
                    .OrderBy(pair => pair.Item1, StringComparer.Ordinal))
                {
                    text.Append(CultureInfo.InvariantCulture, $"{key.Length}:{key}=");
                    Write(
                        text,
                        value,
                        key == PullKeys.Paging.Name ? name => !s_notOfPaging.Contains(name) : _ => true,
                        isBody || key == PullKeys.Body.Name);
                }

                text.Append('}');
                break;
            case YamlSequenceNode list:
                text.Append('[');
                foreach (var item in list.Children)
                    Write(text, item, _ => true, isBody);
                text.Append(']');
                break;
            case YamlScalarNode scalar:
                text.Append(
                    CultureInfo.InvariantCulture,
                    $"{(isBody && scalar.Style == ScalarStyle.Plain ? "p" : "")}{scalar.Value?.Length ?? 0}:{scalar.Value};");
                break;
            default:
                text.Append('-');
                break;
        }
    }

    // What may be the name of an input: a placeholder of a text, or one of several of a path.
    private static IEnumerable<string> NamesIn(string text) =>
        Braces()
            .Matches(text)
            .SelectMany(match => match.Groups[1].Value.TrimStart('+', '#', '.', '/', ';', '?', '&').Split(','))
            .Select(part => part.TrimEnd('*').Split(':')[0])
            .Distinct(
            StringComparer.Ordinal);

    private static HashSet<string> Names(params ReadOnlySpan<Key> keys)
    {
        var names = new HashSet<string>(StringComparer.Ordinal);
        foreach (var key in keys)
            names.Add(key.Name);
        return names;
    }

    [GeneratedRegex(@"\{([^{}=\[\]]+)\}")]
    private static partial Regex Braces();
}
