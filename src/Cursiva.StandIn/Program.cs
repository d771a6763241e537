using System.CommandLine;
using System.Text.Json.Nodes;
using Cursiva.StandIn;
using Cursiva.StandIn.Access;
using Cursiva.StandIn.Customs;
using Cursiva.StandIn.Listings;
using Cursiva.StandIn.Office;
using Microsoft.AspNetCore.Hosting.Server;
using Microsoft.AspNetCore.Hosting.Server.Features;

var port = new Option<int>("--port") { Description = "loopback port; 0 takes a free one" };
var seed = new Option<int>("--seed") { Description = "what the rows are computed from", DefaultValueFactory = _ => 7 };
var rows = new Option<int>("--rows") { Description = "number of consignments, up to 10000000", DefaultValueFactory = _ => 50_000 };
var pageSize = new Option<int>("--page-size") { Description = "rows in a page", DefaultValueFactory = _ => 1000 };
var tokenLifetime = new Option<int>("--token-lifetime")
{
    Description = "seconds an access token is good for",
    DefaultValueFactory = _ => 3600,
};
var tokenUses = new Option<int>("--token-uses") { Description = "refuse a token after so many requests" };
var secret = new Option<string>("--client-secret")
{
    Description = "the secret of the client brackwater-demo",
    DefaultValueFactory = _ => "not-a-real-secret",
};
var limit = new Option<string[]>("--limit") { Description = "COUNT/SECONDS, sliding; may be repeated", DefaultValueFactory = _ => [] };
var latency = new Option<int>("--latency") { Description = "milliseconds on the way, there and back" };
var jitter = new Option<int>("--jitter") { Description = "up to so many milliseconds more" };
var failEvery = new Option<int>("--fail-every") { Description = "answer every so many requests with 503" };
var secondSecret = new Option<string?>("--second-secret") { Description = "another secret of the same client" };
var clientCertificate = new Option<string?>("--client-certificate")
{
    Description = "the file with the certificate that is registered for the client",
};
var refreshLifetime = new Option<int>("--refresh-lifetime")
{
    Description = "seconds a refresh token is good for",
    DefaultValueFactory = _ => 2_592_000,
};
var deviceLifetime = new Option<int>("--device-lifetime")
{
    Description = "seconds a device code is good for",
    DefaultValueFactory = _ => 300,
};
var clockAhead = new Option<int>("--clock-ahead") { Description = "seconds that the server's clock is ahead" };
var answersAfter = new Option<int>("--answers-after") { Description = "milliseconds that the authorization server takes" };
var tlsAuthority = new Option<string?>("--tls-authority")
{
    Description = "serve https, and write the certificate of the authority behind it to this file",
};
var quirk = new Option<string[]>("--quirk") { Description = "an odd manner, by name; may be repeated", DefaultValueFactory = _ => [] };
var fault = new Option<string[]>("--fault")
{
    Description = "KIND/EVERY: reset, stall, drip, html, busy, slow-down, truncate or cut; may be repeated",
    DefaultValueFactory = _ => [],
};
var tenants = new Option<int>("--tenants") { Description = "number of tenants", DefaultValueFactory = _ => 200 };
var refusal = new Option<string?>("--refusal")
{
    Description = "refuse every sign-in, or every request of the API, in the way of this name",
};
var mailbox = new Option<string?>("--mailbox")
{
    Description = "take mail on a free loopback port, which GET /mail tells, and put it into this file",
};
var office = new Option<string?>("--office") { Description = "keep what was written at the office in this file" };
var customsKeys = new Option<string?>("--customs-keys")
{
    Description = "write the customs desk's public keys and certificates into this folder",
};
var prerender = new Option<bool>("--prerender") { Description = "render all pages at the start" };

var command = new RootCommand("The Brackwater Freight Exchange, simulated on this machine's loopback address.")
{
    port, seed, rows, pageSize, tokenLifetime, tokenUses, secret, limit, latency, jitter, failEvery, prerender,
    secondSecret, clientCertificate, refreshLifetime, deviceLifetime, clockAhead, answersAfter, tlsAuthority, quirk, fault, tenants, refusal, mailbox, office, customsKeys,
};
command.SetAction((parsed, cancel) => RunAsync(new StandInOptions
{
    Port = parsed.GetValue(port),
    Seed = parsed.GetValue(seed),
    Rows = Math.Clamp(parsed.GetValue(rows), 0, 10_000_000),
    PageSize = Math.Clamp(parsed.GetValue(pageSize), 1, 10_000),
    TokenLifetime = TimeSpan.FromSeconds(parsed.GetValue(tokenLifetime)),
    TokenUses = parsed.GetValue(tokenUses),
    ClientSecret = parsed.GetValue(secret)!,
    Limits = [.. parsed.GetValue(limit)!.Select(WindowLimit.Parse)],
    Latency = new Latency(TimeSpan.FromMilliseconds(parsed.GetValue(latency))),
    Jitter = TimeSpan.FromMilliseconds(parsed.GetValue(jitter)),
    FailEvery = parsed.GetValue(failEvery),
    Prerender = parsed.GetValue(prerender),
    SecondSecret = parsed.GetValue(secondSecret),
    ClientCertificate = parsed.GetValue(clientCertificate),
    RefreshLifetime = TimeSpan.FromSeconds(parsed.GetValue(refreshLifetime)),
    DeviceLifetime = TimeSpan.FromSeconds(parsed.GetValue(deviceLifetime)),
    ClockAhead = TimeSpan.FromSeconds(parsed.GetValue(clockAhead)),
    AnswersAfter = TimeSpan.FromMilliseconds(parsed.GetValue(answersAfter)),
    TlsAuthority = parsed.GetValue(tlsAuthority),
    Quirks = parsed.GetValue(quirk)!,
    Faults = parsed.GetValue(fault)!,
    Tenants = parsed.GetValue(tenants),
    Refusal = parsed.GetValue(refusal),
    Mailbox = parsed.GetValue(mailbox),
    Office = parsed.GetValue(office),
    CustomsKeys = parsed.GetValue(customsKeys),
}, cancel));
return await command.Parse(args).InvokeAsync();

static async Task RunAsync(StandInOptions options, CancellationToken cancel)
{
    var builder = WebApplication.CreateSlimBuilder();
    builder.Logging.ClearProviders();
    builder.WebHost.ConfigureKestrel(kestrel => kestrel.Limits.MaxRequestBodySize = null);
    if (options.TlsAuthority is { } file)
        builder.WebHost.UseKestrelHttpsConfiguration().ConfigureKestrel(kestrel => Tls.Listen(kestrel, options.Port, file));
    else
        builder.WebHost.UseUrls($"http://127.0.0.1:{options.Port}", "http://127.0.0.1:0");
    await using var app = builder.Build();

    var refreshes = new RefreshDesk(options);
    var statistics = new Statistics(options, refreshes);
    using var desk = new TokenDesk(options);
    var world = new World();
    var listings = new ListingEndpoints(options, statistics, world);
    var exports = new Exports(options, statistics);
    var gate = new ApiGate(options, desk, statistics);
    app.UseWhen(context => context.Request.Query.ContainsKey("packed"), packed => packed.Use(Packed.WriteAsync));
    var planned = new PlannedRefusal(options.Refusal);
    using var deskKeys = new DeskKeys(options.CustomsKeys);
    var deskManner = new DeskManner();
    var customs = new CustomsDesk(options, desk, deskKeys, deskManner);
    app.Use(next => context => customs.PassAsync(context, next));
    app.UseRouting();
    app.Use(next => context => planned.PassAsync(context, next));
    app.Use(next => context => gate.PassAsync(context, next));
    new AuthorizationServer(options, desk, refreshes, statistics).Map(app);
    listings.Map(app);
    new PagingStyles(options, statistics).Map(app);
    new Shapes(options, statistics).Map(app);
    new Moods(options).Map(app);
    new Streams(options).Map(app);
    new Changes(options, world).Map(app);
    world.Map(app);
    exports.Map(app);
    new Tenants(options, statistics).Map(app);
    new Folders(options, statistics).Map(app);
    var (book, manner) = (new OfficeBook(options.Office), new OfficeManner());
    var files = new FileRoom(book, manner, statistics);
    book.Map(app);
    manner.Map(app);
    files.Map(app);
    new Notices(book, manner).Map(app);
    new Assignments(book, manner).Map(app);
    new Hooks(book, manner).Map(app);
    customs.Map(app);
    deskManner.Map(app);
    new Declarations(deskKeys, deskManner).Map(app);
    Odd.Map(app);
    app.MapGet("/v2/me", () => JsonAnswer.Of(new JsonObject { ["id"] = "depot-export" }));
    app.MapGet("/elsewhere", () => exports.Elsewhere);
    app.MapPut("/latency/{milliseconds:int}", options.Latency.SetAsync);
    app.MapGet("/statistics", () => JsonAnswer.Of(statistics.Snapshot()));

    using var mail = options.Mailbox is { } box ? new Mailbox(box) : null;
    if (mail is not null)
    {
        mail.Start(cancel);
        app.MapGet("/mail", () => mail.Address);
    }

    await app.StartAsync(cancel);
    var addresses = app.Services.GetRequiredService<IServer>().Features.Get<IServerAddressesFeature>()!.Addresses;
    var address = addresses.First();
    exports.Elsewhere = files.Elsewhere = addresses.Last();
    if (options.Prerender)
        listings.Prerender(address);

    // The one line that whoever started the program waits for.
    Console.WriteLine("listening on " + address);
    await app.WaitForShutdownAsync(cancel);
}
