using Cursiva.Core.Files;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Operations;

/// <summary>Who a job's service runs as, and where it may write.</summary>
internal static class ServiceUser
{
    // A user's manager does these in a user namespace of the service, which some systems do not allow it.
    private const string Confined = """
        PrivateUsers=yes
        CapabilityBoundingSet=
        AmbientCapabilities=
        ProtectProc=invisible
        PrivateMounts=yes
        PrivateTmp=yes
        PrivateDevices=yes
        ProtectKernelTunables=yes
        ProtectKernelModules=yes
        ProtectKernelLogs=yes
        ProtectControlGroups=yes
        ProtectClock=yes
        ProtectHostname=yes

        """;

    // What only the machine's own services can have: a user's manager lacks the rights.
    private const string OfMachine = """
        ProtectSystem=strict
        RemoveIPC=yes

        """;

    /// <summary>The lines of a service that say it.</summary>
    /// <exception cref="RefusedException">Nobody but root may write where the job writes.</exception>
    public static string Lines(Job job, UnitOrder order)
    {
        if (order.IsOfUser)
            return order.IsUnconfined ? "" : "ProtectSystem=full\n" + Confined;
        List<string> outside = [.. Folders(job).Where(folder => !IsBelow(folder, SystemdUnits.StateFolder)).Distinct()];
        var user = order.RunAs ?? (outside.Count == 0 ? null : OwnerOf(outside[0]));
        var homes = outside.Append(job.Path).Append(order.Program).Any(path => IsBelow(path, "/home") || IsBelow(path, "/root"));
        var writes = string.Concat(outside.Select(folder => $"ReadWritePaths={folder.Replace("%", "%%", StringComparison.Ordinal)}\n"));
        return $"""
            {(user is null ? "DynamicUser=yes\nUser=cursiva" : $"User={user}")}
            StateDirectory=cursiva
            StateDirectoryMode=0700
            ProtectHome={(homes ? "read-only" : "yes")}
            {writes}{OfMachine}{Confined}
            """;
    }

    // As far as they are known before a run: a template's beginning.
    private static IEnumerable<string> Folders(Job job) =>
        job.Deliveries.Select(delivery => delivery.Way).OfType<FolderWay>().Select(way => way.Path)
            .Concat(job.Reports.Count > 0 ? [job.Out] : Array.Empty<Template>())
            .Select(template => Path.GetFullPath(Path.Combine(job.Folder, Start(template))));

    private static string Start(Template template)
    {
        var start = string.Concat(template.Parts.TakeWhile(part => !part.IsName).Select(part => part.Text));
        return template.Parts.Any(part => part.IsName) ? start[..(start.LastIndexOf('/') + 1)] : start;
    }

    private static bool IsBelow(string path, string folder) => path == folder || path.StartsWith(folder + "/", StringComparison.Ordinal);

    // A number serves as well as a name, and needs nobody to look it up.
    private static string OwnerOf(string folder)
    {
        for (var at = folder; at is not null; at = Path.GetDirectoryName(at))
        {
            if (FileOwner.Of(at) is not { } owner)
                continue;
            if (owner.User != 0)
                return owner.User.ToString(System.Globalization.CultureInfo.InvariantCulture);
            break;
        }

        throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"the job writes into {folder}, where only root may write")
        {
            Cause = "a service of the machine runs as its own user, never as root",
            NextStep = $"write out: {SystemdUnits.StateFolder}/reports in the job, or name a user who may write there: --run-as NAME",
        });
    }
}
