using Cursiva.Core.Jobs;

namespace Cursiva.Core.Reports;

/// <summary>
/// A format as it is declared, and who writes it. Each class in the folder Formats says in its <c>Declared</c> what it writes; the build
/// enters that into <see cref="FileFormats"/>, and does not compile without it.
/// </summary>
/// <param name="open">Begins a file; null where the database writes it.</param>
internal sealed class WrittenFormat(Func<FormatTarget, IReportWriter>? open) : FileFormat
{
    /// <summary>Whether the database writes it, and no writer.</summary>
    public bool IsByDatabase => open is null;

    /// <summary>Begins a file.</summary>
    /// <exception cref="InvalidOperationException">The database writes it.</exception>
    public IReportWriter Open(FormatTarget target) =>
        open is not null ? open(target) : throw new InvalidOperationException($"the database writes {Suffix}");
}
