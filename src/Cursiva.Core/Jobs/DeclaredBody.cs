using System.Text.Json.Nodes;

namespace Cursiva.Core.Jobs;

/// <summary>The body of a request as the job declares it: JSON whose texts may have placeholders or be secret sources.</summary>
public abstract record DeclaredBody
{
    private DeclaredBody()
    {
    }

    /// <summary>The names that are filled in later.</summary>
    public IEnumerable<string> Names => this switch
    {
        Group group => group.Members.SelectMany(member => member.Value.Names),
        Items items => items.Values.SelectMany(item => item.Names),
        Text text => text.Value.Names,
        _ => [],
    };

    /// <summary>The same as JSON, every text as it stands.</summary>
    public JsonNode? AsWritten() => this switch
    {
        Group group => new JsonObject(group.Members.Select(member => KeyValuePair.Create(member.Key, member.Value.AsWritten()))),
        Items items => new JsonArray([.. items.Values.Select(item => item.AsWritten())]),
        Text text => JsonValue.Create(text.Value.Literal),
        Plain plain => JsonNode.Parse(plain.Json),
        _ => null,
    };

    /// <summary>An object, its members in the job's order.</summary>
    public sealed record Group(IReadOnlyList<KeyValuePair<string, DeclaredBody>> Members) : DeclaredBody;

    /// <summary>An array.</summary>
    public sealed record Items(IReadOnlyList<DeclaredBody> Values) : DeclaredBody;

    /// <summary>A text, or where a secret is.</summary>
    public sealed record Text(DeclaredValue Value) : DeclaredBody;

    /// <summary>A number, true, false or null, as JSON; nothing is filled in.</summary>
    public sealed record Plain(string Json) : DeclaredBody;
}
