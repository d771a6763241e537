using System.Text;
using System.Text.Json;
using System.Text.Json.Serialization;
using Cursiva.Core.State;

namespace Cursiva.Core.Secrets;

/// <summary>Cursiva's encrypted store of secrets, by name.</summary>
public sealed partial class SecretStore(IState state, Vault vault, TimeProvider clock)
{
    private const string Kind = "secret";

    /// <summary>Keeps a secret under a name, over whatever was there; durable when the call returns.</summary>
    public async Task KeepAsync(string name, string secret, DateTimeOffset? expires, CancellationToken cancel)
    {
        var entry = new Entry(name, clock.GetUtcNow(), expires, vault.Seal(name, Encoding.UTF8.GetBytes(secret)));
        await state.WriteAsync(Kind, name, JsonSerializer.SerializeToUtf8Bytes(entry, EntryJson.Default.Entry), cancel);
    }

    /// <summary>The secret of a name; null when there is none.</summary>
    /// <exception cref="Refusals.RefusedException">It was sealed with another key, or changed.</exception>
    public async Task<string?> ReadAsync(string name, CancellationToken cancel) =>
        await state.ReadAsync(Kind, name, cancel) is { } document
            ? Encoding.UTF8.GetString(vault.Open(name, Parse(document).Sealed))
            : null;

    /// <summary>What is known of a name without opening it; null when there is none.</summary>
    public async Task<KeptSecret?> FindAsync(string name, CancellationToken cancel) =>
        await state.ReadAsync(Kind, name, cancel) is { } document ? Describe(Parse(document)) : null;

    /// <summary>All entries, by name; no key is needed.</summary>
    public async Task<IReadOnlyList<KeptSecret>> ListAsync(CancellationToken cancel) =>
        [.. (await state.ListAsync(Kind, "", cancel)).Select(document => Describe(Parse(document)))];

    /// <summary>Removes an entry.</summary>
    /// <returns>Whether there was one.</returns>
    public Task<bool> DropAsync(string name, CancellationToken cancel) => state.DeleteAsync(Kind, name, cancel);

    private static Entry Parse(byte[] document) => JsonSerializer.Deserialize(document, EntryJson.Default.Entry)!;

    private static KeptSecret Describe(Entry entry) => new(entry.Name, entry.KeptAt, entry.Expires);

    private sealed record Entry(string Name, DateTimeOffset KeptAt, DateTimeOffset? Expires, byte[] Sealed);

    [JsonSerializable(typeof(Entry))]
    private sealed partial class EntryJson : JsonSerializerContext;
}
