using System.Text.Json.Serialization;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Jobs;

/// <summary>
/// A value of the job file that is a text or says where a secret is. Which of the two is decided when the job is read, from what its
/// author wrote; nothing that is filled in later changes it (promise 12).
/// </summary>
public sealed class DeclaredValue
{
    private readonly Template _template;

    /// <param name="template">The text or source, with the placeholders that are known later.</param>
    /// <param name="isSource">Whether the author wrote a source.</param>
    public DeclaredValue(Template template, bool isSource)
    {
        _template = template;
        IsSource = isSource;
    }

    /// <summary>Whether the text is a secret source.</summary>
    public bool IsSource { get; }

    /// <summary>The value as it stands, placeholders included.</summary>
    public string Written => _template.Text;

    /// <summary>The value as it stands, with single braces.</summary>
    [JsonIgnore]
    public string Literal => _template.Literal;

    /// <summary>The names that are filled in later.</summary>
    [JsonIgnore]
    public IEnumerable<string> Names => _template.Names;

    /// <summary>The name of a text that is one placeholder and nothing else; otherwise null.</summary>
    [JsonIgnore]
    public string? OnlyName => !IsSource && _template.Parts is [{ IsName: true, Text: var name }] ? name : null;

    /// <summary>The source; null for a text, and for a source whose placeholders are not filled in.</summary>
    [JsonIgnore]
    public SecretSource? Source => IsSource ? SecretSource.TryParse(Literal) : null;

    /// <summary>The value of a text that needs no secret.</summary>
    public static DeclaredValue OfText(string text) => new(Template.OfLiteral(text), isSource: false);

    /// <summary>The value filled in; null when a name has none, so that what depends on it is omitted.</summary>
    /// <exception cref="RefusedException">A value does not fit into the name of a secret.</exception>
    public FilledValue? TryFill(Func<string, string?> value)
    {
        if (!_template.Names.All(name => value(name) is not null))
            return null;
        if (!IsSource)
            return new FilledValue(_template.Fill(value), null);
        if (_template.Names.Select(name => (name, wrong: Confines.SecretName(value(name)!))).FirstOrDefault(
            item => item.wrong is not null) is { wrong: { } wrong } unfit)
        {
            throw new RefusedException(new Refusal(
                Outcome.ApiFailed, $"the value of {{{unfit.name}}} would be {wrong}, in the secret source {Written}")
            {
                Cause = "a value of a row or an answer fills the name of a secret here, and can fill only one segment of it",
                NextStep =
                    $"check the value; if it is right, store the secrets under other names and select them by another field: {Written}",
            });
        }

        var filled = _template.Fill(value);
        return new FilledValue(filled, SecretSource.TryParse(filled));
    }
}
