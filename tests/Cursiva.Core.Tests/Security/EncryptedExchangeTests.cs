using System.Security.Cryptography;
using System.Security.Cryptography.X509Certificates;
using System.Text;
using System.Text.Json.Nodes;
using Cursiva.Core.Apis;
using Cursiva.Core.Encryption;
using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Runs;
using Cursiva.Core.Tests.Http;
using Cursiva.Core.Tests.Identity;

namespace Cursiva.Core.Tests.Security;

/// <summary>Encrypted sign-ins, bodies under a session key, signatures: what leaves, what is kept, what is refused, and how often is asked.</summary>
public sealed class EncryptedExchangeTests : IAsyncLifetime
{
    private const string Rows = """{"items":[{"id":1},{"id":2}]}""";

    private readonly SignInFixture _fixture = new();
    private readonly TemporaryFolder _folder = new();
    private readonly RSA _desk = RSA.Create(2048);
    private readonly ECDsa _seal = ECDsa.Create(ECCurve.NamedCurves.nistP256);
    private readonly List<byte[]> _sessions = [];
    private Func<HttpRequestMessage, byte[], HttpResponseMessage>? _answers;

    public ValueTask InitializeAsync()
    {
        _fixture.Variables["DESK"] = _desk.ExportSubjectPublicKeyInfoPem();
        _fixture.Variables["SEAL"] = _seal.ExportSubjectPublicKeyInfoPem();
        _fixture.Variables["SHARED"] = Convert.ToBase64String(SHA256.HashData("shared"u8));
        _fixture.Variables["P"] = "pass-4711";
        return ValueTask.CompletedTask;
    }

    public async ValueTask DisposeAsync()
    {
        await _fixture.DisposeAsync();
        _folder.Dispose();
        _desk.Dispose();
        _seal.Dispose();
    }

    [Theory]
    [InlineData("""algorithm: RSA1_5, members: [/password, /app_key], session-key: { send-at: /app_key, answer-at: /k, wrapped: AES-256-ECB }""", "AES-256-ECB")]
    [InlineData("""algorithm: RSA-OAEP, at: /data, session-key: { send-at: /app_key, send-as: base64, answer-at: /k, wrapped: AES-256-CBC }""", "AES-256-CBC")]
    [InlineData("""content: A256GCM, session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE }""", "JWE")]
    [InlineData("""content: A256GCM, at: /data, base64-first: true, session-key: { send-at: /app_key, answer-at: /k, wrapped: AES-256-GCM }""", "AES-256-GCM")]
    [InlineData("""content: A256GCM, session-key: { bytes: 32, send-at: /app_key }""", "AES-256-GCM")]
    [InlineData("""content: A256GCM, answer-at: "", session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE }""", "JWE")]
    public async Task A_session_key_is_agreed_on_and_kept_sealed(string encryption, string cipher)
    {
        var server = new FakeServer(AnswerAsync);
        var job = Read(encryption, $"cipher: {cipher}, request-at: /data, answer-at: /data");
        var services = _fixture.Services(server);
        await using (var clients = Open(job, services, out var signIns))
        {
            (await TextAsync(clients, job)).ShouldBe(Rows);
            (await TextAsync(clients, job)).ShouldBe(Rows);
            signIns.Dispose();
        }

        server.Bodies[0].ShouldNotContain("pass-4711");
        _sessions.Count.ShouldBe(1);

        // Another process has the key of the same sign-in, and nothing on disk shows it.
        await using (var again = Open(job, _fixture.Services(server), out var signIns))
        {
            (await TextAsync(again, job)).ShouldBe(Rows);
            signIns.Dispose();
        }

        _sessions.Count.ShouldBe(1);
        foreach (var file in Directory.GetFiles(_fixture.Folder, "*", SearchOption.AllDirectories))
        {
            using var open = new FileStream(file, FileMode.Open, FileAccess.Read, FileShare.ReadWrite | FileShare.Delete);
            var bytes = new byte[open.Length];
            open.ReadExactly(bytes);
            bytes.AsSpan().IndexOf(_sessions[0]).ShouldBe(-1);
            bytes.AsSpan().IndexOf(Encoding.ASCII.GetBytes(Convert.ToBase64String(_sessions[0]))).ShouldBe(-1);
        }
    }

    [Fact]
    public async Task Requests_side_by_side_share_one_session_key_and_it_is_renewed_ahead()
    {
        var server = new FakeServer(AnswerAsync);
        var job = Read("content: A256GCM, session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE, ends-at: /ends }", "cipher: JWE, request-at: /data, answer-at: /data");
        await using var clients = Open(job, _fixture.Services(server), out var signIns);
        await Task.WhenAll(Enumerable.Range(0, 10).Select(_ => TextAsync(clients, job)));
        _sessions.Count.ShouldBe(1);
        _fixture.Clock.Pass(TimeSpan.FromSeconds(280)); // The token is good for an hour, the key for 300 s.
        await TextAsync(clients, job);
        _sessions.Count.ShouldBe(2);
        signIns.Dispose();
    }

    [Fact]
    public async Task A_refused_session_key_is_renewed_once()
    {
        var refusals = 1;
        _answers = (_, _) => refusals-- > 0 ? FakeServer.Json("""{"error":{"code":"KEY_ENDED"}}""") : null!;
        var server = new FakeServer(AnswerAsync);
        var job = Read("content: A256GCM, session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE }", "cipher: JWE, answer-at: /data, refused-when: { /error/code: [OTHER, KEY_ENDED] }");
        await using var clients = Open(job, _fixture.Services(server), out var signIns);
        (await TextAsync(clients, job)).ShouldBe(Rows);
        _sessions.Count.ShouldBe(2);
        refusals = int.MaxValue;
        var error = await Should.ThrowAsync<RefusedException>(() => TextAsync(clients, job));
        error.Refusal.What.ShouldContain("refused the session key, including that of a fresh sign-in");
        error.Refusal.Quote.ShouldNotBeNull().ShouldContain("KEY_ENDED");
        _sessions.Count.ShouldBe(3);
        signIns.Dispose();
    }

    public static TheoryData<string, string, string> Lies => new()
    {
        { "other key", "could not be opened: " + PayloadException.DoesNotOpen, "answer" },
        { "touched", "could not be opened: " + PayloadException.DoesNotOpen, "answer" },
        { "cut", "could not be opened: " + PayloadException.DoesNotOpen, "answer" },
        { "clear", "answered in the clear, with status 200, and without an encrypted text at /data", "answer" },
        { "not json", "answered in the clear", "answer" },
    };

    [Theory]
    [MemberData(nameof(Lies))]
    public async Task What_does_not_open_reads_alike_and_takes_no_second_request(string lie, string says, string step)
    {
        _answers = (_, key) =>
        {
            using var shared = new ExchangeKey { Secret = lie == "other key" ? SHA256.HashData(key) : key, IsPrivate = true };
            var text = PlainBox.Encrypt(Encoding.UTF8.GetBytes(Rows), shared, default, PlainCipher.Gcm).Data;
            var bytes = Convert.FromBase64String(text);
            bytes[20] ^= 1;
            return FakeServer.Json(lie switch
            {
                "touched" => Envelope(Convert.ToBase64String(bytes)),
                "cut" => Envelope(text[..^8]),
                "clear" => Rows,
                "not json" => "{\"data\":",
                _ => Envelope(text),
            });
        };
        var server = new FakeServer(AnswerAsync);
        var job = Read("content: A256GCM, session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE }", "cipher: AES-256-GCM, answer-at: /data");
        await using var clients = Open(job, _fixture.Services(server), out var signIns);
        var error = await Should.ThrowAsync<RefusedException>(() => TextAsync(clients, job));
        error.Refusal.What.ShouldContain(says);
        error.Refusal.Step.ShouldBe(step);
        error.Refusal.ToString().ShouldNotContain("\"id\":1");
        server.Requests.Count(request => request.Method == HttpMethod.Get).ShouldBe(1);
        signIns.Dispose();
    }

    [Fact]
    public async Task A_post_whose_answer_does_not_open_may_have_done_its_work()
    {
        _answers = (_, _) => FakeServer.Json(Envelope("AAAA"));
        var job = Read("content: A256GCM, session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE }", "cipher: AES-256-GCM, request-at: /data, answer-at: /data");
        await using var clients = Open(job, _fixture.Services(new FakeServer(AnswerAsync)), out var signIns);
        var client = await clients.OfAsync(job.Pulls[0], _ => null, default);
        var error = await Should.ThrowAsync<RefusedException>(() => client.SendAsync(new ApiRequest(HttpMethod.Post, client.Address("/x")) { Body = "{}"u8.ToArray(), Once = true }, default));
        error.Refusal.MayHaveArrived.ShouldBeTrue();
        signIns.Dispose();
    }

    [Fact]
    public async Task An_error_in_the_clear_is_told_as_such()
    {
        _answers = (_, _) => FakeServer.Json("""{"error":{"code":"NOT_OPENED","message":"the body could not be opened"}}""", 400);
        var job = Read("content: A256GCM, session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE }", "cipher: AES-256-GCM, answer-at: /data");
        await using var clients = Open(job, _fixture.Services(new FakeServer(AnswerAsync)), out var signIns);
        var error = await Should.ThrowAsync<RefusedException>(() => TextAsync(clients, job));
        error.Refusal.Status.ShouldBe(400);
        error.Refusal.Quote.ShouldNotBeNull().ShouldContain("NOT_OPENED");
        signIns.Dispose();
    }

    [Fact]
    public async Task A_session_key_that_does_not_open_stops_the_sign_in_and_names_the_step()
    {
        _answers = null;
        _fixture.Variables["SPOIL"] = "1";
        var job = Read("content: A256GCM, session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE }", "cipher: JWE, answer-at: /data");
        var server = new FakeServer(AnswerAsync);
        await using var clients = Open(job, _fixture.Services(server), out var signIns);
        var error = await Should.ThrowAsync<RefusedException>(() => TextAsync(clients, job));
        (error.Refusal.Outcome, error.Refusal.Step).ShouldBe((Outcome.SignInRefused, "session key"));
        error.Refusal.What.ShouldContain("at the session key at /k of the answer");
        server.Requests.Count.ShouldBe(1);
        signIns.Dispose();
    }

    [Theory]
    [InlineData(-1, X509KeyUsageFlags.KeyEncipherment, "its certificate expired on")]
    [InlineData(30, X509KeyUsageFlags.DigitalSignature, "its certificate is only for DigitalSignature")]
    public async Task A_certificate_counts_within_its_dates_and_for_its_purpose(int days, X509KeyUsageFlags use, string says)
    {
        _fixture.Variables["DESK"] = Certificate(_desk, "CN=Desk", days, use);
        var server = new FakeServer(AnswerAsync);
        var job = Read("content: A256GCM, session-key: { send-at: /app_key }", "cipher: JWE");
        await using var clients = Open(job, _fixture.Services(server), out var signIns);
        (await Should.ThrowAsync<RefusedException>(() => TextAsync(clients, job))).Refusal.What.ShouldContain(says);
        server.Requests.ShouldBeEmpty();
        signIns.Dispose();
    }

    [Fact]
    public async Task A_streamed_answer_is_opened_line_by_line()
    {
        using var shared = new ExchangeKey { Secret = SHA256.HashData("shared"u8), IsPrivate = true };
        string Line(string text) => Envelope(PlainBox.Encrypt(Encoding.UTF8.GetBytes(text), shared, default, PlainCipher.Gcm).Data);
        var lines = Enumerable.Range(0, 5000).Select(i => $$"""{"id":{{i}},"text":"{{new string('x', i % 50)}}"}""").ToList();
        var last = "";
        _answers = (_, _) => FakeServer.Json(string.Join('\n', lines.Select(Line)) + last);
        var job = Read(null, "cipher: AES-256-GCM, key: env:SHARED, answer-at: /data, by-line: true");
        await using var clients = Open(job, _fixture.Services(new FakeServer(AnswerAsync)), out var signIns);
        var client = await clients.OfAsync(job.Pulls[0], _ => null, default);
        using (var answer = await client.SendAsync(new ApiRequest(HttpMethod.Get, client.Address("/x")) { Streams = true }, default))
            (await new StreamReader(answer.Stream!).ReadToEndAsync()).TrimEnd('\n').ShouldBe(string.Join('\n', lines));
        last = "\n" + """{"id":5000}""";
        using var odd = await client.SendAsync(new ApiRequest(HttpMethod.Get, client.Address("/x")) { Streams = true }, default);
        (await Should.ThrowAsync<RefusedException>(() => new StreamReader(odd.Stream!).ReadToEndAsync())).Refusal.What.ShouldContain("in the clear");
        signIns.Dispose();
    }

    [Fact]
    public async Task Requests_are_signed_in_every_form()
    {
        var server = new FakeServer(AnswerAsync);
        _answers = (_, _) => FakeServer.Json("{}");
        _fixture.Variables["OWN"] = _seal.ExportPkcs8PrivateKeyPem();
        var body = """{"number":"BFX-1"}"""u8.ToArray();

        var hmac = await SentAsync(server, """form: hmac-sha256, key: env:SHARED, header: X-Desk-Signature, encoding: hex, text: "{method}\n{path}?{query}\n{unix-time}\n{body-sha256-hex}", headers-beside: { X-Desk-Time: "{unix-time}" }""", body);
        var time = hmac.Headers.GetValues("X-Desk-Time").Single();
        hmac.Headers.GetValues("X-Desk-Signature").Single().ShouldBe(Convert.ToHexStringLower(HMACSHA256.HashData(SHA256.HashData("shared"u8), Encoding.UTF8.GetBytes($"POST\n/v2/x?a=1\n{time}\n{Convert.ToHexStringLower(SHA256.HashData(body))}"))));

        var detached = await SentAsync(server, "form: jws-detached, key: env:OWN", body);
        SignedText.Verify(detached.Headers.GetValues("X-JWS-Signature").Single(), ExchangeKeys.Read(Encoding.ASCII.GetBytes(_fixture.Variables["SEAL"])), body).Payload.ShouldBe(body);

        await SentAsync(server, "form: jws, key: env:OWN", body);
        SignedText.Verify(server.Bodies[^1], ExchangeKeys.Read(Encoding.ASCII.GetBytes(_fixture.Variables["SEAL"]))).Payload.ShouldBe(body);

        var message = await SentAsync(server, "form: http-message, key: env:OWN, key-id: own-1", body);
        message.Headers.GetValues("Content-Digest").Single().ShouldBe(MessageSignature.DigestOf(body));
        string? Value(string name, string parameters) => name switch
        {
            "@method" => "POST",
            "@target-uri" => message.RequestUri!.AbsoluteUri,
            "content-type" => "application/json",
            _ => message.Headers.GetValues(name).Single(),
        };
        MessageSignature.Verify(message.Headers.GetValues("Signature-Input").Single(), message.Headers.GetValues("Signature").Single(), ExchangeKeys.Read(Encoding.ASCII.GetBytes(_fixture.Variables["SEAL"])), ["@method", "@target-uri", "content-digest", "content-type"], Value, _fixture.Clock.GetUtcNow(), _fixture.Clock.GetUtcNow());
        message.Headers.GetValues("Signature-Input").Single().ShouldContain("keyid=\"own-1\"");
    }

    [Theory]
    [InlineData("right", null)]
    [InlineData("other key", "is not valid")]
    [InlineData("touched", "is not valid")]
    [InlineData("missing", "no signature in the header X-JWS-Signature")]
    public async Task A_detached_signature_of_an_answer_is_verified(string lie, string? says)
    {
        using var other = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        _answers = (_, _) =>
        {
            using var key = new ExchangeKey { Curve = ECDsa.Create((lie == "other key" ? other : _seal).ExportParameters(true)), IsPrivate = true };
            var answer = FakeServer.Json(lie == "touched" ? Rows.Replace('1', '3') : Rows);
            if (lie != "missing")
                answer.Headers.Add("X-JWS-Signature", SignedText.Sign(Encoding.UTF8.GetBytes(Rows), key, "ES256", isDetached: true));
            return answer;
        };
        foreach (var tells in new[] { false, true })
        {
            var job = Read(null, null, $"answers: {{ form: jws-detached, key: env:SEAL, key-id: seal-1, header: X-JWS-Signature{(tells ? ", when-unverified: report" : "")} }}");
            var server = new FakeServer(AnswerAsync);
            await using var clients = Open(job, _fixture.Services(server), out var signIns);
            var client = await clients.OfAsync(job.Pulls[0], _ => null, default);
            if (says is null || tells)
            {
                using var answer = await client.GetAsync(client.Address("/x"), default);
                answer.VerifiedBy.ShouldBe(says is null ? "seal-1" : null);
                _fixture.Watch.Warnings.Any(warning => warning.Contains("does not verify, and is kept", StringComparison.Ordinal)).ShouldBe(says is not null);
            }
            else
            {
                var error = await Should.ThrowAsync<RefusedException>(() => client.GetAsync(client.Address("/x"), default));
                (error.Refusal.Outcome, error.Refusal.Step).ShouldBe((Outcome.ApiFailed, "signature"));
                error.Refusal.What.ShouldContain(says);
                server.Requests.Count.ShouldBe(1);
            }

            signIns.Dispose();
        }
    }

    [Theory]
    [InlineData("form: http-message", 200, "no Content-Digest")]
    [InlineData("form: http-message", 204, "no Content-Digest")]
    [InlineData("form: jws-detached, header: X-JWS-Signature", 204, "no signature in the header X-JWS-Signature")]
    [InlineData("form: jws", 200, "no signature in it")]
    [InlineData("form: jws, at: /x", 200, "no signature at /x")]
    [InlineData("form: jws", 204, null)]
    public async Task An_answer_without_a_body_is_not_let_pass_unsigned(string form, int status, string? says)
    {
        _answers = (_, _) => FakeServer.Json("", status);
        var job = Read(null, null, $"answers: {{ {form}, key: env:SEAL }}");
        await using var clients = Open(job, _fixture.Services(new FakeServer(AnswerAsync)), out var signIns);
        var client = await clients.OfAsync(job.Pulls[0], _ => null, default);
        var asked = new ApiRequest(HttpMethod.Delete, client.Address("/x"));
        if (says is null)
            (await client.SendAsync(asked, default)).Dispose();
        else
            (await Should.ThrowAsync<RefusedException>(() => client.SendAsync(asked, default))).Refusal.What.ShouldContain(says);
        signIns.Dispose();
    }

    [Fact]
    public async Task The_issuer_of_a_signer_can_be_pinned()
    {
        using var rsa = RSA.Create(2048);
        _fixture.Variables["SEAL"] = Certificate(rsa, "CN=Brackwater Seal", 30, X509KeyUsageFlags.DigitalSignature);
        using var key = new ExchangeKey { Rsa = RSA.Create(rsa.ExportParameters(true)), IsPrivate = true };
        _answers = (_, _) => FakeServer.Json("\"" + SignedText.Sign(Encoding.UTF8.GetBytes(Rows), key, "PS256") + "\"");
        foreach (var (issuer, says) in new[] { ("Brackwater Seal", null), ("CN=Brackwater Seal", null), ("Somebody", "was issued by CN=Brackwater Seal, not by Somebody") })
        {
            var job = Read(null, null, $"answers: {{ form: jws, key: env:SEAL, issuer: {issuer} }}");
            await using var clients = Open(job, _fixture.Services(new FakeServer(AnswerAsync)), out var signIns);
            if (says is null)
                (await TextAsync(clients, job)).ShouldBe(Rows);
            else
                (await Should.ThrowAsync<RefusedException>(() => TextAsync(clients, job))).Refusal.What.ShouldContain(says);
            signIns.Dispose();
        }
    }

    [Fact]
    public async Task A_key_set_is_fetched_again_where_it_may_pass_and_its_keys_are_used_for_what_they_are_published()
    {
        var (rsa, curve) = (_desk.ExportParameters(false), _seal.ExportParameters(false));
        string Url(byte[]? bytes) => System.Buffers.Text.Base64Url.EncodeToString(bytes);
        var set = $$"""{"keys":[{"kty":"EC","use":"sig","kid":"s","crv":"P-256","x":"{{Url(curve.Q.X)}}","y":"{{Url(curve.Q.Y)}}"},{"kty":"RSA","use":"enc","n":"{{Url(rsa.Modulus)}}","e":"{{Url(rsa.Exponent)}}"},{"kty":"OKP","crv":"X25519"}]}""";
        var failures = 2;
        var server = new FakeServer((request, number) => request.RequestUri!.AbsolutePath == "/keys" ? FakeServer.Json(failures-- > 0 ? "{}" : set, failures >= 0 ? 503 : 200) : AnswerAsync(request, number));
        var job = Read("content: A256GCM, session-key: { send-at: /app_key, answer-at: /k, wrapped: JWE }", "cipher: JWE, answer-at: /data", key: "https://desk.example/keys");
        await using var clients = Open(job, _fixture.Services(server), out var signIns);
        (await TextAsync(clients, job)).ShouldBe(Rows);
        server.Requests.Count(request => request.RequestUri!.AbsolutePath == "/keys").ShouldBe(3);
        signIns.Dispose();
    }

    [Theory]
    [InlineData("form: jws-detached, header: X-Signed")]
    [InlineData("form: http-message")]
    public async Task A_key_that_is_newer_than_the_set_is_found(string form)
    {
        using var newer = ECDsa.Create(ECCurve.NamedCurves.nistP256);
        var signsWith = _seal;
        _answers = (_, _) =>
        {
            using var key = new ExchangeKey { Curve = ECDsa.Create(signsWith.ExportParameters(true)), IsPrivate = true };
            var answer = FakeServer.Json(Rows);
            var digest = MessageSignature.DigestOf(Encoding.UTF8.GetBytes(Rows));
            var (input, signature) = MessageSignature.Sign(["@status", "content-digest"], key, "ecdsa-p256-sha256", _fixture.Clock.GetUtcNow(), (name, _) => name == "@status" ? "200" : digest);
            answer.Headers.Add("X-Signed", SignedText.Sign(Encoding.UTF8.GetBytes(Rows), key, "ES256", isDetached: true));
            answer.Headers.Add("Content-Digest", digest);
            answer.Headers.Add("Signature-Input", input);
            answer.Headers.Add("Signature", signature);
            return answer;
        };
        var server = new FakeServer((request, number) => request.RequestUri!.AbsolutePath == "/keys" ? FakeServer.Json(SetOf(signsWith)) : AnswerAsync(request, number));
        var job = Read(null, null, $"answers: {{ {form}, key: https://desk.example/keys }}");
        await using var clients = Open(job, _fixture.Services(server), out var signIns);
        (await TextAsync(clients, job)).ShouldBe(Rows);
        (await TextAsync(clients, job)).ShouldBe(Rows);
        int Fetched() => server.Requests.Count(request => request.RequestUri!.AbsolutePath == "/keys");
        Fetched().ShouldBe(1);
        signsWith = newer;
        (await TextAsync(clients, job)).ShouldBe(Rows);
        Fetched().ShouldBe(2);
        signIns.Dispose();
    }

    private static string SetOf(ECDsa key)
    {
        var curve = key.ExportParameters(false);
        string Url(byte[]? bytes) => System.Buffers.Text.Base64Url.EncodeToString(bytes);
        return $$"""{"keys":[{"kty":"EC","use":"sig","crv":"P-256","x":"{{Url(curve.Q.X)}}","y":"{{Url(curve.Q.Y)}}"}]}""";
    }

    [Fact]
    public async Task A_pull_may_be_in_the_clear_where_its_API_encrypts()
    {
        _answers = (_, _) => FakeServer.Json(Rows);
        var job = Read(null, "cipher: JWE, key: env:SHARED", pull: "encryption: { cipher: none }");
        await using var clients = Open(job, _fixture.Services(new FakeServer(AnswerAsync)), out var signIns);
        (await TextAsync(clients, job)).ShouldBe(Rows);
        signIns.Dispose();
    }

    private async Task<HttpRequestMessage> SentAsync(FakeServer server, string requests, byte[] body)
    {
        var job = Read(null, null, $"requests: {{ {requests} }}");
        await using var clients = Open(job, _fixture.Services(server), out var signIns);
        var client = await clients.OfAsync(job.Pulls[0], _ => null, default);
        (await client.SendAsync(new ApiRequest(HttpMethod.Post, client.Address("/x?a=1")) { Body = body }, default)).Dispose();
        signIns.Dispose();
        return server.Requests[^1];
    }

    // The authority: it opens the sign-in in whatever form it comes, and answers bodies under the session key.
    private HttpResponseMessage AnswerAsync(HttpRequestMessage request, int number)
    {
        if (request.RequestUri!.AbsolutePath == "/sign-in")
            return FakeServer.Json(SignIn(request));
        var key = _sessions.Count > 0 ? _sessions[^1] : SHA256.HashData("shared"u8);
        if (_answers?.Invoke(request, key) is { } own)
            return own;
        using var shared = new ExchangeKey { Secret = [.. key], IsPrivate = true };
        return FakeServer.Json(Envelope(request.Headers.GetValues("X-Cipher").Single() switch
        {
            "JWE" => SealedText.Encrypt(Encoding.UTF8.GetBytes(Rows), shared, KeyAlgorithm.Direct, ContentAlgorithm.A256Gcm),
            var cipher => PlainBox.Encrypt(Encoding.UTF8.GetBytes(Rows), shared, default, SealedBody.ModeOf(cipher)).Data,
        }));
    }

    private string SignIn(HttpRequestMessage request)
    {
        var text = request.Content!.ReadAsStringAsync().GetAwaiter().GetResult();
        var body = text.StartsWith('{') ? JsonNode.Parse(text)!.AsObject() : null;
        using var own = new ExchangeKey { Rsa = RSA.Create(_desk.ExportParameters(true)), IsPrivate = true };
        byte[] fresh;
        if (body?["app_key"] is { } member)
        {
            fresh = _desk.Decrypt(Convert.FromBase64String(member.ToString()), RSAEncryptionPadding.Pkcs1);
        }
        else
        {
            var sealedText = body?["data"]?.ToString() ?? text;
            var plain = Encoding.UTF8.GetString(sealedText.Contains('.', StringComparison.Ordinal) ? SealedText.Decrypt(sealedText, [own]) : _desk.Decrypt(Convert.FromBase64String(sealedText), RSAEncryptionPadding.OaepSHA1));
            var opened = JsonNode.Parse(plain.StartsWith('{') ? plain : Encoding.UTF8.GetString(Convert.FromBase64String(plain)))!;
            opened["password"]!.ToString().ShouldBe("pass-4711");
            fresh = Convert.FromBase64String(opened["app_key"]!.ToString());
        }

        var session = RandomNumberGenerator.GetBytes(32);
        using var wrapping = new ExchangeKey { Secret = _fixture.Variables.ContainsKey("SPOIL") ? SHA256.HashData(fresh) : [.. fresh], IsPrivate = true };
        var wrapped = _wrapped switch
        {
            null => "",
            "JWE" => SealedText.Encrypt(session, wrapping, KeyAlgorithm.Direct, ContentAlgorithm.A256Gcm),
            _ => PlainBox.Encrypt(session, wrapping, default, SealedBody.ModeOf(_wrapped)).Data,
        };
        _sessions.Add(_wrapped is null ? fresh : session);
        var answer = new JsonObject { ["access_token"] = $"token-{_sessions.Count}", ["expires_in"] = 3600, ["k"] = wrapped, ["ends"] = 300 }.ToJsonString();
        using var whole = new ExchangeKey { Secret = [.. fresh], IsPrivate = true };
        return _isWhole ? SealedText.Encrypt(Encoding.UTF8.GetBytes(answer), whole, KeyAlgorithm.Direct, ContentAlgorithm.A256Gcm) : answer;
    }

    private string? _wrapped;
    private bool _isWhole;

    private Job Read(string? signIn, string? encryption, string? signatures = null, string pull = "", string key = "env:DESK")
    {
        _wrapped = signIn is null || !signIn.Contains("answer-at: /k", StringComparison.Ordinal) ? null : Ciphers.OfSessionKeys.First(name => signIn.Contains("wrapped: " + name, StringComparison.Ordinal));
        _isWhole = signIn?.Contains("answer-at: \"\"", StringComparison.Ordinal) == true;
        var cipher = Ciphers.OfBodies.FirstOrDefault(name => encryption?.Contains("cipher: " + name, StringComparison.Ordinal) == true);
        return JobReader.Read(_folder.Write("job.cursiva.yaml", $$"""
            cursiva: 1
            identities:
              desk:
                grant: session
                token-endpoint: https://desk.example/sign-in
                token-body: json
                token-parameters: { user: brackwater, password: env:P }
                {{(signIn is null ? "" : $"encryption: {{ key: {key}, {signIn} }}")}}
            apis:
              desk:
                base: https://desk.example/v2
                timeout: 30s
                headers: { X-Cipher: "{{cipher}}" }
                {{(signIn is null ? "" : "identity: desk")}}
                {{(encryption is null ? "" : $"encryption: {{ {encryption} }}")}}
                {{(signatures is null ? "" : $"signatures: {{ {signatures} }}")}}
            pulls:
              p:
                get: /x
                rows: /items
                {{pull}}
            """), new GivenInputs([], [], _ => null), DateTimeOffset.UnixEpoch);
    }

    private static ApiClients Open(Job job, SignInServices services, out SignIns signIns) => new(job, signIns = new SignIns(services), services);

    private static async Task<string> TextAsync(ApiClients clients, Job job)
    {
        var client = await clients.OfAsync(job.Pulls[0], _ => null, default);
        using var answer = await client.GetAsync(client.Address("/x"), default);
        return Encoding.UTF8.GetString(answer.Body.Content);
    }

    private static string Envelope(string text) => new JsonObject { ["data"] = text }.ToJsonString();

    private string Certificate(RSA key, string name, int days, X509KeyUsageFlags use)
    {
        var request = new CertificateRequest(name, key, HashAlgorithmName.SHA256, RSASignaturePadding.Pkcs1);
        request.CertificateExtensions.Add(new X509KeyUsageExtension(use, true));
        using var certificate = request.CreateSelfSigned(_fixture.Clock.GetUtcNow().AddDays(-10), _fixture.Clock.GetUtcNow().AddDays(days));
        return certificate.ExportCertificatePem();
    }
}
