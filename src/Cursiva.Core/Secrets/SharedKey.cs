using System.Security.Cryptography;
using System.Text;
using Cursiva.Core.Files;
using Cursiva.Core.Refusals;
using Cursiva.Core.State;

namespace Cursiva.Core.Secrets;

/// <summary>
/// Makes sure that all machines of a shared state have one key of the store. The database knows a mark by which it is recognised, and never
/// the key.
/// </summary>
public static class SharedKey
{
    private const string Kind = "store-key";
    private const string Key = "mark";

    /// <summary>Compares this machine's key with the one that the state's secrets were sealed with. The first machine makes it.</summary>
    /// <exception cref="RefusedException">This machine has none, or another one.</exception>
    public static async Task CheckAsync(
        StateFolder folder, IDisk disk, Func<string, string?> environment, IState state, CancellationToken cancel)
    {
        if (folder.Shared is not { } shared)
            return;
        var key = new StoreKey(folder, disk, environment);
        var known = await state.ReadAsync(Kind, Key, cancel);
        if (known is not null && !key.IsThere)
            throw Refuse(shared, $"this machine does not have the store's key ({key.Where} does not exist)", key);
        var mark = MarkOf(key.Read());
        if (known is null && await state.SwapAsync(Kind, Key, null, mark, cancel))
            return;
        known ??= await state.ReadAsync(Kind, Key, cancel);
        if (known is null || !known.AsSpan().SequenceEqual(mark))
            throw Refuse(shared, $"the key at {key.Where} is a different one", key);
    }

    private static RefusedException Refuse(SharedDatabase shared, string what, StoreKey key) =>
        new(new Refusal(
            Outcome.SignInRefused, $"the secrets in the shared state at {shared.Words} were sealed with the store's key, but {what}")
        {
            Cause = "the first machine makes the key, which has to be copied by hand",
            NextStep =
                $"copy the key from a machine that has it to {key.Where} (mode 600), or provide it on every machine with {StoreKey.FileVariable} or {StoreKey.Variable}",
        });

    private static byte[] MarkOf(byte[] key) =>
        Encoding.ASCII.GetBytes(Convert.ToHexStringLower(HMACSHA256.HashData(key, "which key is shared"u8)));
}
