using System.Text;
using Cursiva.Core.Files;

namespace Cursiva.Core.Tests.Files;

public sealed class FileSetTests : IDisposable
{
    private readonly TemporaryFolder _folder = new();

    public void Dispose() => _folder.Dispose();

    [Fact]
    public void Files_appear_together_and_leave_nothing_behind()
    {
        var disk = new Disk();
        var set = Begin(disk, "one", "two");
        File.Exists(_folder["a.csv"]).ShouldBeFalse();
        set.Publish();
        Contents().ShouldBe(["a.csv=one", "b.csv=two"]);
    }

    [Fact]
    public void After_publishing_a_power_cut_takes_nothing()
    {
        var disk = new ForgetfulDisk();
        Begin(disk, "one", "two").Publish();
        disk.CutPower();
        File.ReadAllText(_folder["a.csv"]).ShouldBe("one");
        File.ReadAllText(_folder["b.csv"]).ShouldBe("two");
    }

    [Fact]
    public void A_crash_between_two_renames_is_finished_at_the_next_start()
    {
        var disk = new Disk();
        _folder.Write("a.csv", "old");
        _folder.Write("b.csv", "old");
        var set = Begin(new StoppingDisk(renames: 2), "one", "two");
        Should.Throw<IOException>(set.Publish);
        File.ReadAllText(_folder["b.csv"]).ShouldBe("old");

        FileSet.Finish(disk, _folder["list.json"]).Count.ShouldBe(2);
        Contents().ShouldBe(["a.csv=one", "b.csv=two"]);
        FileSet.Finish(disk, _folder["list.json"]).ShouldBeEmpty();
    }

    [Fact]
    public void A_set_that_is_abandoned_leaves_the_last_good_files()
    {
        _folder.Write("a.csv", "old");
        Begin(new Disk(), "half", "half").Abandon();
        Contents().ShouldBe(["a.csv=old"]);
    }

    [Fact]
    public void State_is_private_and_reports_are_not()
    {
        var disk = new Disk();
        disk.CreateFolder(_folder["private/deep"]);
        WholeFile.Write(disk, _folder["private/deep/file"], "x"u8);
        File.GetUnixFileMode(_folder["private/deep/file"]).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite);
        File.GetUnixFileMode(_folder["private"]).ShouldBe(UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
        Begin(disk, "one", "two").Publish();
        (File.GetUnixFileMode(_folder["a.csv"]) & UnixFileMode.GroupRead).ShouldBe(UnixFileMode.GroupRead);
    }

    [Fact]
    public void A_lock_is_held_once_and_tells_by_whom()
    {
        using (var held = ProcessLock.TryTake(_folder["lock"], "the first", out _))
        {
            held.ShouldNotBeNull();
            ProcessLock.TryTake(_folder["lock"], "the second", out var heldBy).ShouldBeNull();
            heldBy.ShouldBe("the first");
        }

        using var again = ProcessLock.TryTake(_folder["lock"], "the third", out _);
        again.ShouldNotBeNull();
    }

    private FileSet Begin(IDisk disk, string a, string b)
    {
        var set = new FileSet(disk, _folder.Path, _folder["list.json"]);
        foreach (var (name, text) in new[] { ("a.csv", a), ("b.csv", b) })
        {
            using var stream = set.Begin(_folder[name]);
            stream.Write(Encoding.UTF8.GetBytes(text));
            stream.Flush();
        }

        return set;
    }

    private string[] Contents() => [.. Directory.GetFiles(_folder.Path).Order(StringComparer.Ordinal).Select(path => $"{Path.GetFileName(path)}={File.ReadAllText(path)}")];

    /// <summary>Stops working before a given rename, as a killed process would.</summary>
    private sealed class StoppingDisk(int renames) : DiskDouble
    {
        private int _renames;

        public override void Rename(string from, string to)
        {
            if (_renames++ == renames)
                throw new IOException("killed");
            base.Rename(from, to);
        }
    }
}
