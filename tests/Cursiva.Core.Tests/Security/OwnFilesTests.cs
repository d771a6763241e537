using Cursiva.Core.Files;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;
using Cursiva.Core.State;

namespace Cursiva.Core.Tests.Security;

/// <summary>Files that are opened are ours, and names from outside stay names.</summary>
public sealed class OwnFilesTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();
    private readonly Disk _disk = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void A_planted_link_is_not_followed()
    {
        _folder.Write("victim", "untouched");
        File.CreateSymbolicLink(_folder["link"], _folder["victim"]);
        Should.Throw<IOException>(() => _disk.Open(_folder["link"])).Message.ShouldContain("is a link");
        Should.Throw<IOException>(() => _disk.Create(_folder["link"]));
        Should.Throw<IOException>(() => _disk.Create(_folder["victim"]));
        File.ReadAllText(_folder["victim"]).ShouldBe("untouched");
    }

    [Fact]
    public void A_report_is_written_through_no_link_below_its_folder()
    {
        Directory.CreateDirectory(_folder["elsewhere"]);
        Directory.CreateDirectory(_folder["out"]);
        Directory.CreateSymbolicLink(_folder["out/deep"], _folder["elsewhere"]);
        var set = new FileSet(_disk, _folder["out"], _folder["list.json"]);
        Should.Throw<IOException>(() => set.Begin(_folder["out/deep/a.csv"])).Message.ShouldContain("links below out: are not followed");
        Directory.GetFiles(_folder["elsewhere"]).ShouldBeEmpty();

        // A link under the final name is replaced, not followed; one that was planted under the temporary name is removed.
        _folder.Write("victim", "untouched");
        File.CreateSymbolicLink(_folder["out/b.csv"], _folder["victim"]);
        File.CreateSymbolicLink(_folder["out/.b.csv.part"], _folder["victim"]);
        using (var file = set.Begin(_folder["out/b.csv"]))
            file.Write("new"u8);
        set.Publish();
        File.ReadAllText(_folder["victim"]).ShouldBe("untouched");
        File.ReadAllText(_folder["out/b.csv"]).ShouldBe("new");
        new FileInfo(_folder["out/b.csv"]).LinkTarget.ShouldBeNull();

        // The folder itself may be a link: it is the one that was chosen.
        Directory.CreateSymbolicLink(_folder["chosen"], _folder["out"]);
        using (var file = new FileSet(_disk, _folder["chosen"], _folder["list.json"]).Begin(_folder["chosen/c.csv"]))
            file.Write("x"u8);
    }

    [Fact]
    public void Two_files_of_a_report_have_two_names() =>
        Should.Throw<IOException>(() =>
        {
            var set = new FileSet(_disk, _folder.Path, _folder["list.json"]);
            set.Begin(_folder["a.csv"]).Dispose();
            set.Begin(_folder["x/../a.csv"]).Dispose();
        }).Message.ShouldContain("two files of one report would be");

    [Theory]
    [InlineData(UnixFileMode.GroupWrite)]
    [InlineData(UnixFileMode.OtherWrite)]
    public void A_state_folder_that_others_may_write_is_refused_with_what_mends_it(UnixFileMode mode)
    {
        var state = new StateFolder(_folder["state"]);
        state.Prepare(_disk);
        File.SetUnixFileMode(state.Root, File.GetUnixFileMode(state.Root) | mode);
        var refusal = Should.Throw<RefusedException>(() => state.Prepare(_disk)).Refusal;
        refusal.What.ShouldContain("can be written by others");
        refusal.NextStep.ShouldBe($"chmod go-w {state.Root}");

        // The advice, carried out.
        System.Diagnostics.Process.Start("chmod", ["go-w", state.Root]).WaitForExit();
        state.Prepare(_disk);
    }

    [Fact]
    public void A_state_folder_of_somebody_else_is_refused()
    {
        var refusal = Should.Throw<RefusedException>(() => StateFolder.RequireOwn("/state", "the state folder", new FileOwner(FileOwner.Me + 1, UnixFileMode.UserRead))).Refusal;
        refusal.What.ShouldContain("belongs to another user");
        refusal.NextStep!.ShouldContain("chown");
        FileOwner.Of("/proc/1")!.User.ShouldBe(0u);
        FileOwner.Of(_folder.Path)!.IsMine.ShouldBeTrue();
        FileOwner.Of(_folder["none"]).ShouldBeNull();
    }

    [Fact]
    public void Without_a_home_there_is_no_state_in_a_folder_that_everybody_shares() =>
        Should.Throw<RefusedException>(() => StateFolder.Find(null, _ => null)).Refusal.NextStep!.ShouldContain("CURSIVA_STATE");

    [Theory]
    [InlineData("664", true, false)]
    [InlineData("606", true, false)]
    [InlineData("644", false, true)]
    [InlineData("600", false, false)]
    public void An_environment_file_that_others_write_is_refused_and_one_that_they_read_is_told(string mode, bool refused, bool warned)
    {
        var path = _folder.Write(".env", "S=secret-value\n");
        File.SetUnixFileMode(path, (UnixFileMode)Convert.ToInt32(mode, 8));
        var warnings = new List<string>();
        if (refused)
            Should.Throw<RefusedException>(() => EnvironmentFile.Over(_ => null, path, warnings.Add)).Refusal.NextStep!.ShouldContain("chmod 600");
        else
            EnvironmentFile.Over(_ => null, path, warnings.Add)("S").ShouldBe("secret-value");
        warnings.Count.ShouldBe(warned ? 1 : 0);
    }

    [Fact]
    public async Task What_is_kept_for_oneself_has_mode_0600()
    {
        var state = new StateFolder(_folder["state"]);
        state.Prepare(_disk);
        await using (var database = SqliteState.Open(state.Database, TimeProvider.System))
            await database.WriteAsync("a", "b", [1], default);
        new StoreKey(state, _disk, _ => null).Read();
        using (ProcessLock.TryTake(Path.Combine(state.Root, "lock"), "me", out _))
        {
            foreach (var file in Directory.GetFiles(state.Root))
                File.GetUnixFileMode(file).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite, file);
        }

        Directory.GetFiles(state.Root).Length.ShouldBeGreaterThan(3);
    }

    [Theory]
    [InlineData("a/b\\c:d", "a_b_c_d")]
    [InlineData("..", "_")]
    [InlineData(".hidden", "_hidden")]
    [InlineData("-rf", "_rf")]
    [InlineData("", "empty")]
    [InlineData("a\nb\u202E\u0000", "a_b__")]
    [InlineData("name. ", "name")]
    [InlineData("漢字", "漢字")]
    public void A_value_becomes_one_name(string value, string name) => FileNames.Of(value).ShouldBe(name);

    [Fact]
    public void Long_values_are_cut_at_a_characters_edge_and_stay_apart()
    {
        var (one, other) = (FileNames.Of(new string('漢', 200) + "a"), FileNames.Of(new string('漢', 200) + "b"));
        one.ShouldNotBe(other);
        foreach (var name in new[] { one, other, FileNames.Of(string.Concat(Enumerable.Repeat("😀", 100))) })
        {
            System.Text.Encoding.UTF8.GetByteCount(name).ShouldBeLessThanOrEqualTo(FileNames.MostBytes);
            name.ShouldNotContain('\uFFFD');
            _disk.Create(_folder["." + name + ".fragment.html.zst.part"]).Dispose();
        }
    }

    [Fact]
    public void This_file_system_tells_upper_from_lower_case() => FileNames.IgnoreCase(_disk, _folder.Path).ShouldBeFalse();
}
