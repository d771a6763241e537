using System.Text;
using System.Text.Json;
using Cursiva.Core.Encryption;
using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Apis;

/// <summary>Verifies what comes from an API: whole answers, and rows.</summary>
/// <param name="warn">Is told of what does not verify and is kept.</param>
/// <param name="shown">Is told each step; null for nobody.</param>
public sealed class SignatureDesk(Api api, KeyRing keys, TimeProvider clock, Action<string> warn, Action<PayloadStep>? shown)
{
    private bool _toldUnverified;
    private IReadOnlyList<ExchangeKey> _ofRows = [];

    /// <summary>How answers are verified; null where they are not.</summary>
    public SignatureCheck? Answers => api.Signatures?.Answers;

    /// <summary>How rows are verified; null where they are not.</summary>
    public SignatureCheck? Rows => api.Signatures?.Rows;

    /// <summary>Reads the keys that rows are verified under.</summary>
    /// <exception cref="RefusedException">They cannot be had.</exception>
    public async Task PrepareAsync(CancellationToken cancel) =>
        _ofRows = Rows is null ? [] : await keys.ReadAsync(Rows.Key, KeyUse.Verify, cancel);

    /// <summary>The payload of a signed text of a row, and what tells the key.</summary>
    /// <param name="detached">The payload that went another way; null where it is in the text.</param>
    /// <exception cref="PayloadException">It does not verify.</exception>
    public (byte[] Payload, string By) Verify(string text, byte[]? detached, SignatureCheck check) =>
        Pinned(SignedText.Verify(text, _ofRows, detached, shown, clock.GetUtcNow()), check);

    /// <summary>What is done about something that does not verify: it is told once and kept, or the run stops.</summary>
    /// <exception cref="RefusedException">The job keeps nothing unverified.</exception>
    public void Unverified(SignatureCheck check, string what, PayloadException error, string? request)
    {
        if (!check.MayBeUnverified)
        {
            throw new RefusedException(new Refusal(Outcome.ApiFailed, $"{what} of API '{api.Name}' does not verify: {error.Message}")
            {
                Cause = "it was changed on the way, or signed with another key than the job's",
                NextStep =
                    $"ask the other side which key signs now, and compare it with key: {check.Key} of signatures:; when-unverified: report keeps it unverified",
                Step = "signature",
                Request = request,
            }, error);
        }

        if (_toldUnverified)
            return;
        _toldUnverified = true;
        warn($"API '{api.Name}': {what} does not verify, and is kept: {error.Message}");
    }

    internal async Task<Answer> VerifyMessageAsync(
        Answer answer, Request request, SignatureCheck check, DateTimeOffset sent, CancellationToken cancel)
    {
        IReadOnlyList<string> must = check.Covers.Count > 0 ? check.Covers : ["@status", "content-digest"];
        try
        {
            if (must.Contains("content-digest") || answer.Header("Content-Digest") is not null)
                MessageSignature.CheckDigest(answer.Header("Content-Digest"), answer.Body.Content);
            var parts = new MessageParts(request, answer);
            var by = await UnderAsync(
                check,
                known => MessageSignature.Verify(
                    answer.Header("Signature-Input"), answer.Header("Signature"), known, must, parts.Value, sent, clock.GetUtcNow(), shown),
                cancel);
            Pinned(by, check);
            return answer.With(answer.Body, null, by.Mark);
        }
        catch (PayloadException error)
        {
            Unverified(check, "an answer", error, request.ToString());
            return answer;
        }
    }

    internal async Task<Answer> VerifyTextAsync(Answer answer, Request request, SignatureCheck check, CancellationToken cancel)
    {
        try
        {
            var text = check.Header is { } header ? answer.Header(header)
                : answer.Body.Length == 0 ? null
                : check.At is { } at ? JsonFind.Text(answer.Body.Content, at)
                : Encoding.UTF8.GetString(answer.Body.Content).Trim().Trim('"');
            if (text is null)
                throw new PayloadException(
                    $"it has no signature {(check.Header is { } named ? $"in the header {named}" : check.At is { } where ? $"at {where.Text}" : "in it")}");
            var detached = check.Form == SignatureForms.Detached ? PayloadOf(answer.Body, check.PayloadAt) : null;
            var (payload, by) = Pinned(
                await UnderAsync(check, known => SignedText.Verify(text, known, detached, shown, clock.GetUtcNow()), cancel), check);
            if (check.Form == SignatureForms.Detached)
                return answer.With(answer.Body, request.Streams ? new MemoryStream(answer.Body.Content.ToArray()) : null, by);
            var verified = answer.With(PageBuffer.Of(payload), request.Streams ? new MemoryStream(payload) : null, by);
            answer.Dispose();
            return verified;
        }
        catch (Exception error) when (error is PayloadException or JsonException)
        {
            Unverified(check, "an answer", error as PayloadException ?? new PayloadException("it is not JSON", error), request.ToString());
            return answer;
        }
    }

    private async Task<T> UnderAsync<T>(SignatureCheck check, Func<IReadOnlyList<ExchangeKey>, T> verify, CancellationToken cancel)
    {
        try
        {
            return verify(await keys.ReadAsync(check.Key, KeyUse.Verify, cancel));
        }
        catch (PayloadException) when (check.Key.Address is not null)
        {
            // The other side may sign with a key that is newer than the set.
            keys.Forget(check.Key);
            return verify(await keys.ReadAsync(check.Key, KeyUse.Verify, cancel));
        }
    }

    private static byte[] PayloadOf(PageBuffer json, JsonPointer? at) => PayloadOf(json.Content, at);

    private static (byte[] Payload, string By) Pinned(VerifiedText verified, SignatureCheck check)
    {
        Pinned(verified.By, check);
        return (verified.Payload, verified.By.Mark);
    }

    /// <summary>The payload of a detached signature: a text at a place, JSON as it is written there, or the whole.</summary>
    internal static byte[] PayloadOf(ReadOnlySpan<byte> json, JsonPointer? at)
    {
        if (at is null)
            return json.ToArray();
        var raw = JsonFind.Raw(json, at);
        return raw is []
            ? throw new PayloadException($"it has no payload at {at.Text}")
            : raw[0] == '"' ? Encoding.UTF8.GetBytes(JsonFind.TextOf(raw)!) : raw.ToArray();
    }

    private static void Pinned(ExchangeKey key, SignatureCheck check)
    {
        if (check.Issuer is not { } issuer)
            return;
        if (key.Certificate is not { } certificate)
            throw new PayloadException("its key has no certificate, so its issuer is unknown");
        if (certificate.Issuer != issuer
            && certificate.GetNameInfo(System.Security.Cryptography.X509Certificates.X509NameType.SimpleName, forIssuer: true) != issuer)
            throw new PayloadException($"its key was issued by {certificate.Issuer}, not by {issuer}");
    }
}
