namespace Cursiva.Core.Jobs;

/// <summary>How the ends of a window are written.</summary>
public enum WindowForm
{
    /// <summary><c>2026-03-01T00:00:00Z</c>.</summary>
    Time,

    /// <summary><c>2026-03-01</c>, a day of UTC.</summary>
    Date,

    /// <summary>Seconds since 1970 (POSIX).</summary>
    Seconds,
}
