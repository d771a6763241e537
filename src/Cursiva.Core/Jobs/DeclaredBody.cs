using System.Text.Json.Nodes;

namespace Cursiva.Core.Jobs;

/// <summary>The body of a request as the job declares it: JSON whose texts may have placeholders or be secret sources.</summary>
public abstract record DeclaredBody
{
    private DeclaredBody()
    {
    }

    /// <summary>The names that are filled in later.</summary>
    public abstract IEnumerable<string> Names { get; }

    /// <summary>Whether a secret stands in it.</summary>
    public bool HasSecret => this switch
    {
        Group group => group.Members.Any(member => member.Value.HasSecret),
        Items items => items.Values.Any(item => item.HasSecret),
        Text text => text.Value.IsSource,
        _ => false,
    };

    /// <summary>The same as JSON, every text as it stands.</summary>
    public abstract JsonNode? AsWritten();

    /// <summary>An object, its members in the job's order.</summary>
    public sealed record Group(IReadOnlyList<KeyValuePair<string, DeclaredBody>> Members) : DeclaredBody
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Names => Members.SelectMany(member => member.Value.Names);

        /// <inheritdoc/>
        public override JsonNode AsWritten() =>
            new JsonObject(Members.Select(member => KeyValuePair.Create(member.Key, member.Value.AsWritten())));
    }

    /// <summary>An array.</summary>
    public sealed record Items(IReadOnlyList<DeclaredBody> Values) : DeclaredBody
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Names => Values.SelectMany(item => item.Names);

        /// <inheritdoc/>
        public override JsonNode AsWritten() => new JsonArray([.. Values.Select(item => item.AsWritten())]);
    }

    /// <summary>A text, or where a secret is.</summary>
    public sealed record Text(DeclaredValue Value) : DeclaredBody
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Names => Value.Names;

        /// <inheritdoc/>
        public override JsonNode? AsWritten() => JsonValue.Create(Value.Literal);
    }

    /// <summary>A number, true, false or null, as JSON; nothing is filled in.</summary>
    public sealed record Plain(string Json) : DeclaredBody
    {
        /// <inheritdoc/>
        public override IEnumerable<string> Names => [];

        /// <inheritdoc/>
        public override JsonNode? AsWritten() => JsonNode.Parse(Json);
    }
}
