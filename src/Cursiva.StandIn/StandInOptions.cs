namespace Cursiva.StandIn;

/// <summary>How the stand-in behaves; every switch of the command line ends up here.</summary>
public sealed record StandInOptions
{
    /// <summary>TCP port on the loopback address; 0 takes a free one.</summary>
    public int Port { get; init; }

    /// <summary>What all rows are computed from; the same seed gives the same rows.</summary>
    public int Seed { get; init; } = 7;

    /// <summary>Number of consignments, 0 to 10,000,000.</summary>
    public int Rows { get; init; } = 50_000;

    /// <summary>Rows in a page unless the request asks for fewer with <c>size</c>.</summary>
    public int PageSize { get; init; } = 1000;

    /// <summary>Lifetime of an access token.</summary>
    public TimeSpan TokenLifetime { get; init; } = TimeSpan.FromHours(1);

    /// <summary>The client that may sign in.</summary>
    public string ClientId { get; init; } = "brackwater-demo";

    /// <summary>The client's secret.</summary>
    public string ClientSecret { get; init; } = "not-a-real-secret";

    /// <summary>Requests allowed in each sliding window; empty for no limit.</summary>
    public IReadOnlyList<WindowLimit> Limits { get; init; } = [];

    /// <summary>Time on the way, half before the request arrives and half after it was answered.</summary>
    public Latency Latency { get; init; } = new(TimeSpan.Zero);

    /// <summary>A random addition to each half of the way, from zero to half of this.</summary>
    public TimeSpan Jitter { get; init; }

    /// <summary>Answers every so many API requests with 503; 0 never does.</summary>
    public int FailEvery { get; init; }

    /// <summary>Refuses a token (401) once it was used so many times; 0 never does.</summary>
    public int TokenUses { get; init; }

    /// <summary>Renders the pages of the consignments once, at the start, so that serving them costs nearly nothing.</summary>
    public bool Prerender { get; init; }

    /// <summary>A second secret of the client, for the days of a changeover.</summary>
    public string? SecondSecret { get; init; }

    /// <summary>The certificate that is registered for the client: a file, PEM or DER.</summary>
    public string? ClientCertificate { get; init; }

    /// <summary>The password of the person night-clerk.</summary>
    public string PersonPassword { get; init; } = "not-a-real-password";

    /// <summary>How long a refresh token is good for.</summary>
    public TimeSpan RefreshLifetime { get; init; } = TimeSpan.FromDays(30);

    /// <summary>How long a device code is good for.</summary>
    public TimeSpan DeviceLifetime { get; init; } = TimeSpan.FromMinutes(5);

    /// <summary>How far the server's clock is ahead.</summary>
    public TimeSpan ClockAhead { get; init; }

    /// <summary>How long the authorization server takes to answer.</summary>
    public TimeSpan AnswersAfter { get; init; }

    /// <summary>Serve https, with a certificate of an authority that is made at the start and written to this file.</summary>
    public string? TlsAuthority { get; init; }

    /// <summary>Odd manners of the server, by name.</summary>
    public IReadOnlyList<string> Quirks { get; init; } = [];

    /// <summary>What goes wrong with every so many requests, as KIND/EVERY.</summary>
    public IReadOnlyList<string> Faults { get; init; } = [];

    /// <summary>Tenants that there are.</summary>
    public int Tenants { get; init; } = 200;

    /// <summary>The name of a <see cref="Access.PlannedRefusal"/>; null for none.</summary>
    public string? Refusal { get; init; }

    public bool Has(string quirk) => Quirks.Contains(quirk);

    /// <summary>The folder that the customs desk's public keys are written into; null for none.</summary>
    public string? CustomsKeys { get; init; }

    /// <summary>The file that mails are put into; null for no mail server.</summary>
    public string? Mailbox { get; init; }

    /// <summary>The file that has what was written at the office; null for none.</summary>
    public string? Office { get; init; }
}
