namespace Cursiva.Cli;

/// <summary>How events are told.</summary>
internal enum LogForm
{
    /// <summary>As lines for people.</summary>
    Plain,

    /// <summary>As JSON, an object a line.</summary>
    Json,

    /// <summary>To systemd's journal, with priority and fields.</summary>
    Journal,
}
