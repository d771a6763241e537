using System.Text;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Ledger;
using Cursiva.Core.Pulls;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Deliveries;

/// <summary>Posts a JSON body to an address that is a secret itself. Nobody can be asked whether it arrived.</summary>
internal sealed class MessageCarrier(MessageWay way, SignInServices services) : ICarrier
{
    private static readonly Patience s_patience = new(TimeSpan.FromSeconds(60), 1 << 20);

    /// <inheritdoc/>
    public async Task<Packed> PackAsync(Parcel parcel, Outbox outbox, CancellationToken cancel)
    {
        var filled = await FilledBody.OfAsync(way.Body, parcel.Name, _ => null, services.Secrets, cancel);
        var body = Encoding.UTF8.GetBytes(filled?.ToJsonString() ?? "null");
        var to = $"the address of {way.Address}";
        if (body.Length > way.Largest)
            return new Packed(to, [])
            {
                Refused = $"the message has {body.Length:N0} bytes, and largest: allows {way.Largest:N0}; shorten body:",
            };
        outbox.Put(parcel.Id, 0, stream => stream.Write(body));
        outbox.Close(parcel.Id);
        return new Packed(to, ["message.json"]);
    }

    /// <inheritdoc/>
    public async Task<SendResult> SendAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel)
    {
        var secret = (await services.Secrets.ReadAsync(way.Address, cancel)).Reveal().Trim();
        if (!Uri.TryCreate(secret, UriKind.Absolute, out var address)
            || !(address.Scheme == Uri.UriSchemeHttps || (address.Scheme == Uri.UriSchemeHttp && address.IsLoopback)))
            return new SendResult(
                LedgerPhase.Ready, $"{way.Address} is not an https address; store the address that the tool gave you");
        services.Redactor.Remember(address.PathAndQuery);
        var request = new Request(HttpMethod.Post, address, []) { Body = await File.ReadAllBytesAsync(files[0], cancel) };
        try
        {
            // What is on its way is finished, whoever stops the run (promise 15).
            using var answer = await services.Senders.For().SendAsync(request, s_patience, CancellationToken.None);
            var said = Clean(
                $"{address.Host} answered with status {answer.Status}{(Quote.From(answer, services.Redactor) is { Length: > 0 } quote ? $": {quote}" : "")}");
            return new SendResult(answer.IsSuccess ? LedgerPhase.Sent : PhaseOf(answer), said);
        }
        catch (TransportException error)
        {
            return new SendResult(
                error.MayHaveArrived ? LedgerPhase.InDoubt : LedgerPhase.Ready,
                Clean($"{address.Host} gave no complete answer: {error.Message}"));
        }
    }

    /// <inheritdoc/>
    public Task<bool?> HasArrivedAsync(LedgerEntry entry, IReadOnlyList<string> files, CancellationToken cancel) =>
        Task.FromResult<bool?>(null);

    // RFC 9110 section 15.6: a server that fails may have taken it, unless it says when to come again.
    private LedgerPhase PhaseOf(Answer answer) =>
        answer.Status is 408 or 429 || RetryAfter.Read(answer.Headers, services.Clock.GetUtcNow()) is not null ? LedgerPhase.Ready
        : Retries.IsFailing(answer.Status) ? LedgerPhase.InDoubt
        : LedgerPhase.Refused;

    private string Clean(string text) => services.Redactor.Clean(text);
}
