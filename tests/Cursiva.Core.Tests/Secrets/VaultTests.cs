using System.Text;
using CsCheck;
using Cursiva.Core.Files;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.Secrets;

public sealed class VaultTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void What_is_sealed_opens_again_and_never_looks_the_same()
    {
        var vault = Vault();
        Gen.Select(Gen.String, Gen.Byte.Array[0, 200]).Where((name, _) => !name.Any(char.IsSurrogate)).Sample((name, plain) =>
        {
            var first = vault.Seal(name, plain);
            vault.Open(name, first).ShouldBe(plain);
            vault.Seal(name, plain).ShouldNotBe(first);
        }, threads: 1);
    }

    [Fact]
    public void A_single_bit_that_changed_is_noticed()
    {
        var vault = Vault();
        var good = vault.Seal("name", "a secret"u8);
        for (var bit = 0; bit < good.Length * 8; bit++)
        {
            var changed = good.ToArray();
            changed[bit / 8] ^= (byte)(1 << (bit % 8));
            Should.Throw<RefusedException>(() => vault.Open("name", changed));
        }

        for (var length = 0; length < good.Length; length++)
            Should.Throw<RefusedException>(() => vault.Open("name", good.AsSpan(0, length)));
    }

    [Fact]
    public void An_entry_opens_under_no_other_name_and_no_other_key()
    {
        var good = Vault().Seal("one", "a secret"u8);
        Should.Throw<RefusedException>(() => Vault().Open("two", good)).Refusal.What.ShouldContain("was changed");
        Should.Throw<RefusedException>(() => Vault(name => name == StoreKey.Variable ? Convert.ToBase64String(new byte[32]) : null).Open("one", good)).Refusal.What.ShouldContain("with another key");
    }

    [Fact]
    public void The_key_file_is_made_once_and_only_its_owner_may_read_it()
    {
        var keys = Enumerable.Range(0, 8).AsParallel().Select(_ => Convert.ToBase64String(new StoreKey(new StateFolder(_folder.Path), new Disk(), _ => null).Read())).ToArray();
        keys.Distinct().Count().ShouldBe(1);
        File.GetUnixFileMode(_folder["store.key"]).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
        Directory.GetFiles(_folder.Path).Select(Path.GetFileName).ShouldBe(["store.key"]);
    }

    [Fact]
    public void Systemd_hands_the_key_over()
    {
        var key = Convert.ToBase64String(Encoding.ASCII.GetBytes("0123456789abcdef0123456789abcdef"));
        _folder.Write(StoreKey.Credential, key + "\n");
        var read = new StoreKey(new StateFolder(_folder["state"]), new Disk(), name => name == "CREDENTIALS_DIRECTORY" ? _folder.Path : null);
        Convert.ToBase64String(read.Read()).ShouldBe(key);
    }

    private Vault Vault(Func<string, string?>? environment = null) => new(new StoreKey(new StateFolder(_folder.Path), new Disk(), environment ?? (_ => null)));
}
