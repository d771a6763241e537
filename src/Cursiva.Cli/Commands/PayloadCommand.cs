using System.CommandLine;
using System.Text;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva payload [JOB API]</c>: one step of an encrypted or signed exchange, shown; by hand, or as a job's API has it.</summary>
internal sealed class PayloadCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string> _file = new("FILE") { Description = "the payload; - for standard input", DefaultValueFactory = _ => InputFile.StandardInput };
    private readonly Option<string> _key = new("--key") { Description = "where the key is: file:PATH (PEM, DER, certificate, PKCS #12, JWK or JWK set), env:NAME, kept:NAME, systemd:NAME", HelpName = "SOURCE" };
    private readonly Option<string?> _keyPassword = new("--key-password") { Description = "where the private key's password is", HelpName = "SOURCE" };
    private readonly Option<string?> _keyId = new("--key-id") { Description = "which key of a set to use; sent as kid", HelpName = "ID" };
    private readonly Option<string> _wrap = new("--algorithm") { Description = "how the content key is encrypted", DefaultValueFactory = _ => "RSA-OAEP-256" };
    private readonly Option<string> _content = new("--content") { Description = "how the content is encrypted", DefaultValueFactory = _ => "A256GCM" };
    private readonly Option<string?> _plain = new("--plain") { Description = "plain AES, as in older schemes, instead of JWE: ecb, cbc or gcm" };
    private readonly Option<string?> _signature = new("--algorithm") { Description = "the signature algorithm [RS256 for an RSA key, ES256 and so on for a curve, HS256 for a shared key]" };
    private readonly Option<bool> _detached = new("--detached") { Description = "omit the payload from the text" };
    private readonly Option<string?> _payload = new("--payload") { Description = "the payload of a detached signature", HelpName = "FILE" };
    private readonly Option<string?> _schema = new("--schema") { Description = "the JSON Schema (2020-12) [the job's, if it has one]", HelpName = "FILE" };
    private readonly Option<string?> _compare = new("--compare") { Description = "your own program's output, to find out where it begins to differ", HelpName = "FILE" };
    private readonly Argument<string?> _job = new("JOB") { Description = "the job file that declares how; without it, use the options", Arity = ArgumentArity.ZeroOrOne };
    private readonly Argument<string?> _api = new("API") { Description = "the API, pull or write of the job", Arity = ArgumentArity.ZeroOrOne };
    private readonly Option<string> _request = new("--request") { Description = "METHOD PATH of the request to sign, with JOB API", DefaultValueFactory = _ => "POST /" };
    private readonly Option<bool> _result = new("--result") { Description = "print only the result instead of every step" };
    private readonly Option<bool> _reveal = new("--reveal") { Description = "show keys and decrypted text in the steps" };

    public PayloadCommand()
    {
        _wrap.AcceptOnlyFromAmong([.. AlgorithmNames.Keys]);
        _content.AcceptOnlyFromAmong([.. AlgorithmNames.Contents]);
        _signature.AcceptOnlyFromAmong([.. SignatureAlgorithms.All]);
        _plain.AcceptOnlyFromAmong("ecb", "cbc", "gcm");
        foreach (var option in new Option[] { _key, _keyPassword })
        {
            option.Validators.Add(result =>
            {
                // What stands there may be the secret itself, and is not repeated.
                if (result.Tokens is [var token, ..] && SecretSource.TryParse(token.Value) is null)
                    result.AddError($"{option.Name} is not a secret source; {SecretSource.Right}");
            });
        }
    }

    public Command Build()
    {
        var encrypt = Of("encrypt", "Encrypt a payload under the other side's key: as JWE, in the plain parts of older schemes, or as a job's API declares it.", [_wrap, _content, _plain, _compare], EncryptAsync);
        var decrypt = Of("decrypt", "Decrypt a payload with your own key: a JWE, with --plain the two parts that encrypt prints, or an answer of a job's API.", [_wrap, _plain], DecryptAsync);
        var sign = Of("sign", "Sign a payload: a JWS in the compact form, or as a job's API declares its requests.", [_signature, _detached, _compare, _request], SignAsync);
        var verify = Of("verify", "Verify a signed payload: a JWS in the compact form, detached, or in a JSON form.", [_payload], VerifyAsync);
        var validate = new Command("validate", "Compare a JSON document with a JSON Schema, and list every mistake with its place.") { _file, _schema, _common.Input, _common.InputsFrom, _common.EnvFile, _common.Format };
        validate.Executes(_common, ValidateAsync);
        return new Command("payload", "Show one step of an encrypted or signed exchange; with JOB API, as that API declares it.") { _job, _api, encrypt, decrypt, sign, verify, validate };
    }

    private Command Of(string name, string description, Option[] own, Func<PayloadOrder, CancellationToken, Task<string>> work)
    {
        var command = new Command(name, description) { _file, _key, _keyPassword, _keyId, _result, _reveal, _common.Input, _common.InputsFrom, _common.State, _common.EnvFile, _common.Format };
        foreach (var option in own)
            command.Add(option);
        command.Validators.Add(result =>
        {
            if (result.GetValue(_job) is null && result.GetValue(_key) is null)
                result.AddError($"name the key with --key SOURCE, or use an API of a job: cursiva payload JOB API {name}");
            else if (result.GetValue(_job) is not null && result.GetValue(_api) is null)
                result.AddError($"name an API of the job: cursiva payload JOB API {name}");
        });
        command.Executes(_common, (parsed, place, cancel) => ExecuteAsync(parsed, place, work, cancel));
        return command;
    }

    private async Task<Outcome> ExecuteAsync(ParseResult parsed, CommandContext place, Func<PayloadOrder, CancellationToken, Task<string>> work, CancellationToken cancel)
    {
        var steps = new List<PayloadStep>();
        using var job = parsed.GetValue(_job) is { } path ? await JobPayload.OpenAsync(place, path, parsed.GetValue(_api)!, steps.Add, cancel) : null;
        IReadOnlyList<ExchangeKey>? keys = parsed.GetValue(_key) is null ? null : await KeysAsync(parsed, place, cancel);
        try
        {
            var order = new PayloadOrder(parsed, job, keys, await ReadAsync(parsed.GetValue(_file)!, cancel), steps.Add);
            var result = await ToldAsync(() => work(order, cancel));
            if (parsed.GetValue(_result))
                place.Terminal.Out.WriteLinesAsIs(result);
            else if (order.Compared is null || !place.Json)
                PayloadView.Show(place.Terminal, place.Json, steps, parsed.GetValue(_reveal), "--reveal shows them, and --result prints only the result");
            if (order.Compared is not { } compared)
                return Outcome.Done;
            PayloadView.Show(place.Terminal, place.Json, compared);
            return compared.All(step => step.Agrees) ? Outcome.Done : Outcome.ReportFailed;
        }
        finally
        {
            foreach (var key in keys ?? [])
                key.Dispose();
        }
    }

    private async Task<string> EncryptAsync(PayloadOrder order, CancellationToken cancel)
    {
        var (parsed, input) = (order.Parsed, order.Input);
        var declared = order.Job?.Encryption ?? new BodyEncryption(Cipher(parsed), null) { Algorithm = parsed.GetValue(_wrap), Content = parsed.GetValue(_content)! };
        var key = order.Job is { } job ? await job.SealingKeyAsync(order.Keys, cancel) : Only(order.Keys!);
        string result;
        if (order.Job is not null)
            result = Encoding.UTF8.GetString(SealedBody.Encrypt(input, declared, key, order.Shown).Body);
        else if (parsed.GetValue(_plain) is { } mode)
            result = JsonSerializer.Serialize(PlainBox.Encrypt(input, key, AlgorithmNames.Key(parsed.GetValue(_wrap))!.Value, Mode(mode), order.Shown), CliJson.Default.PlainBox);
        else
            result = SealedText.Encrypt(input, key, AlgorithmNames.Key(parsed.GetValue(_wrap))!.Value, AlgorithmNames.Content(parsed.GetValue(_content))!.Value, shown: order.Shown);
        if (parsed.GetValue(_compare) is { } own)
            order.Compared = PayloadComparison.Encrypted(Encoding.UTF8.GetString(await ReadAsync(own, cancel)), input, declared with { Algorithm = key.Secret is null || declared.Cipher == Ciphers.Jwe ? declared.Algorithm : null }, key);
        return result;
    }

    private async Task<string> DecryptAsync(PayloadOrder order, CancellationToken cancel)
    {
        var text = Encoding.UTF8.GetString(order.Input);
        if (order.Job is { } job)
        {
            var keys = await job.OpeningKeysAsync(order.Keys, cancel);
            var plain = SealedBody.Decrypt(order.Input, job.Encryption, keys, order.Shown);
            return Encoding.UTF8.GetString(plain ?? throw new PayloadException($"it has no encrypted text{(job.Encryption.AnswerAt is { } at ? $" at {at.Text}" : "")}: it is in the clear, as errors often are"));
        }

        if (order.Parsed.GetValue(_plain) is not { } mode)
            return Encoding.UTF8.GetString(SealedText.Decrypt(text, order.Keys!, order.Shown));
        try
        {
            return Encoding.UTF8.GetString(JsonSerializer.Deserialize(text, CliJson.Default.PlainBox)!.Decrypt(Only(order.Keys!), AlgorithmNames.Key(order.Parsed.GetValue(_wrap))!.Value, Mode(mode), order.Shown));
        }
        catch (Exception error) when (error is JsonException or ArgumentNullException or NullReferenceException)
        {
            throw new PayloadException("it is not JSON with the members wrapped-key and data, as printed by cursiva payload encrypt --plain", error);
        }
    }

    private async Task<string> SignAsync(PayloadOrder order, CancellationToken cancel)
    {
        var key = order.Job is { } job ? await job.SigningKeyAsync(order.Keys, cancel) : Only(order.Keys!);
        var algorithm = order.Parsed.GetValue(_signature) ?? order.Job?.Signing.Algorithm ?? SignatureAlgorithms.Usual(key);
        var result = order.Job is { } ofJob
            ? ofJob.Sign(order.Input, order.Parsed.GetValue(_request)!, key, order.Shown)
            : SignedText.Sign(order.Input, key, algorithm, order.Parsed.GetValue(_detached), order.Shown);
        if (order.Parsed.GetValue(_compare) is { } own)
            order.Compared = SignatureComparison.Signed(Encoding.UTF8.GetString(await ReadAsync(own, cancel)), order.Input, key, algorithm);
        return result;
    }

    private async Task<string> VerifyAsync(PayloadOrder order, CancellationToken cancel)
    {
        var detached = order.Parsed.GetValue(_payload) is { } file ? await ReadAsync(file, cancel) : null;
        var keys = order.Job is { } job ? await job.VerifyingKeysAsync(order.Keys, cancel) : order.Keys!;
        return Encoding.UTF8.GetString(SignedText.Verify(Encoding.UTF8.GetString(order.Input), keys, detached, order.Shown).Payload);
    }

    private async Task<Outcome> ValidateAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var document = Encoding.UTF8.GetString(await ReadAsync(parsed.GetValue(_file)!, cancel));
        var file = parsed.GetValue(_schema) ?? (parsed.GetValue(_job) is { } job ? JobPayload.SchemaOf(place.ReadJob(job), parsed.GetValue(_api)) : null)
            ?? throw new RefusedException(new Refusal(Outcome.WrongCommandLine, "there is no schema") { NextStep = "name one: --schema FILE; or a job whose pull or write has validate:" });
        var schema = Encoding.UTF8.GetString(await ReadAsync(file, cancel));
        var mistakes = await ToldAsync(() => Task.FromResult(SchemaMistakes.Of(schema, document)));
        PayloadView.Show(place.Terminal, place.Json, mistakes);
        return mistakes.Count == 0 ? Outcome.Done : Outcome.ReportFailed;
    }

    private async Task<IReadOnlyList<ExchangeKey>> KeysAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var services = await place.OpenAsync(null, cancel);
        var password = parsed.GetValue(_keyPassword) is { } source ? (await services.Secrets.ReadAsync(SecretSource.TryParse(source)!, cancel)).Reveal() : null;
        var bytes = await services.Secrets.ReadBytesAsync(SecretSource.TryParse(parsed.GetValue(_key)!)!, cancel);
        var keys = await ToldAsync(() => Task.FromResult(ExchangeKeys.Read(bytes, password)));
        if (parsed.GetValue(_keyId) is not { } id)
            return keys;
        return keys is [{ Id: null }] ? [keys[0].As(id)]
            : keys.Where(key => key.Id == id).ToList() is { Count: > 0 } chosen ? chosen
            : throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"there is no key with the id '{id}'") { NextStep = $"name one of {string.Join(", ", keys.Select(key => key.Id).OfType<string>().Select(OneLine.Of))}" });
    }

    private string Cipher(ParseResult parsed) => parsed.GetValue(_plain) switch
    {
        null => Ciphers.Jwe,
        "ecb" => Ciphers.Ecb,
        "cbc" => Ciphers.Cbc,
        _ => Ciphers.Gcm,
    };

    private static ExchangeKey Only(IReadOnlyList<ExchangeKey> keys) => keys is [var only] ? only : throw new PayloadException($"there are {keys.Count} keys; choose one with --key-id");

    private static PlainCipher Mode(string word) => Enum.Parse<PlainCipher>(word, ignoreCase: true);

    private static async Task<T> ToldAsync<T>(Func<Task<T>> work)
    {
        try
        {
            return await work();
        }
        catch (PayloadException error)
        {
            throw new RefusedException(new Refusal(Outcome.ReportFailed, error.Message) { NextStep = "compare the key (public or private half) and the algorithm with the other side's documentation" }, error);
        }
    }

    private static Task<byte[]> ReadAsync(string file, CancellationToken cancel) => InputFile.ReadAsync(
        file,
        why => new Refusal(Outcome.WrongCommandLine, $"'{file}' cannot be read: {why}") { NextStep = "name an existing file that you can read" },
        cancel);
}
