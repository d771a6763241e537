using System.CommandLine;
using System.Text;
using System.Text.Json;
using Cursiva.Cli.Rendering;
using Cursiva.Core.Encryption;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Cli.Commands;

/// <summary><c>cursiva payload</c>: one step of an encrypted or signed exchange, shown. Nothing of it needs a network.</summary>
internal sealed class PayloadCommand
{
    private readonly CommonOptions _common = new();
    private readonly Argument<string> _file = new("FILE") { Description = "the payload; - for standard input", DefaultValueFactory = _ => InputFile.StandardInput };
    private readonly Option<string> _key = new("--key") { Description = "where the key is: file:PATH (PEM, DER, certificate, PKCS #12, JWK or JWK set), env:NAME, kept:NAME, systemd:NAME", HelpName = "SOURCE", Required = true };
    private readonly Option<string?> _keyPassword = new("--key-password") { Description = "where the password of a private key is", HelpName = "SOURCE" };
    private readonly Option<string?> _keyId = new("--key-id") { Description = "the key of a set that is meant; it is sent as kid", HelpName = "ID" };
    private readonly Option<string> _wrap = new("--algorithm") { Description = "how the content key is handed over", DefaultValueFactory = _ => "RSA-OAEP-256" };
    private readonly Option<string> _content = new("--content") { Description = "how the content is encrypted", DefaultValueFactory = _ => "A256GCM" };
    private readonly Option<string?> _plain = new("--plain") { Description = "plain AES as older schemes have it, instead of JWE: ecb, cbc or gcm" };
    private readonly Option<string?> _signature = new("--algorithm") { Description = "how it is signed [RS256 for an RSA key, ES256 and so on for a curve, HS256 for a shared key]" };
    private readonly Option<bool> _detached = new("--detached") { Description = "leave the payload out of the text" };
    private readonly Option<string?> _payload = new("--payload") { Description = "the payload that went another way, of a detached signature", HelpName = "FILE" };
    private readonly Option<string> _schema = new("--schema") { Description = "the JSON Schema (2020-12)", HelpName = "FILE", Required = true };
    private readonly Option<bool> _result = new("--result") { Description = "print the result alone, instead of every step" };
    private readonly Option<bool> _reveal = new("--reveal") { Description = "show keys and what was opened among the steps" };

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
                    result.AddError($"{option.Name} names no source; {SecretSource.Right}");
            });
        }
    }

    public Command Build()
    {
        var encrypt = Of("encrypt", "Encrypt a payload for the other side's key: as JWE, or in the plain parts of older schemes.", [_wrap, _content, _plain], EncryptAsync);
        var decrypt = Of("decrypt", "Open a payload with one's own key: a JWE, or with --plain the two parts that encrypt gives.", [_wrap, _plain], DecryptAsync);
        var sign = Of("sign", "Sign a payload: a JWS in the compact form.", [_signature, _detached], SignAsync);
        var verify = Of("verify", "Verify a signed payload: a JWS in the compact form, detached, or in a JSON form.", [_payload], VerifyAsync);
        var validate = new Command("validate", "Compare a JSON document with a JSON Schema, and name every mistake with its place.") { _file, _schema, _common.Format };
        validate.Executes(_common, ValidateAsync);
        return new Command("payload", "One step of an encrypted or signed exchange, shown; with no network.") { encrypt, decrypt, sign, verify, validate };
    }

    private Command Of(string name, string description, Option[] own, Func<ParseResult, CommandContext, IReadOnlyList<ExchangeKey>, byte[], Action<PayloadStep>, CancellationToken, Task<string>> work)
    {
        var command = new Command(name, description) { _file, _key, _keyPassword, _keyId, _result, _reveal, _common.State, _common.EnvFile, _common.Format };
        foreach (var option in own)
            command.Add(option);
        command.Executes(_common, async (parsed, place, cancel) =>
        {
            var keys = await KeysAsync(parsed, place, cancel);
            try
            {
                var steps = new List<PayloadStep>();
                var result = await ToldAsync(async () => await work(parsed, place, keys, await ReadAsync(parsed.GetValue(_file)!, cancel), steps.Add, cancel));
                PayloadView.Show(place.Terminal, place.Json, steps, result, parsed.GetValue(_result), parsed.GetValue(_reveal));
                return Outcome.Done;
            }
            finally
            {
                foreach (var key in keys)
                    key.Dispose();
            }
        });
        return command;
    }

    private Task<string> EncryptAsync(ParseResult parsed, CommandContext place, IReadOnlyList<ExchangeKey> keys, byte[] input, Action<PayloadStep> shown, CancellationToken cancel)
    {
        var algorithm = AlgorithmNames.Key(parsed.GetValue(_wrap))!.Value;
        if (parsed.GetValue(_plain) is not { } mode)
            return Task.FromResult(SealedText.Encrypt(input, Only(keys), algorithm, AlgorithmNames.Content(parsed.GetValue(_content))!.Value, shown: shown));
        return Task.FromResult(JsonSerializer.Serialize(PlainBox.Encrypt(input, Only(keys), algorithm, Mode(mode), shown), CliJson.Default.PlainBox));
    }

    private Task<string> DecryptAsync(ParseResult parsed, CommandContext place, IReadOnlyList<ExchangeKey> keys, byte[] input, Action<PayloadStep> shown, CancellationToken cancel)
    {
        var text = Encoding.UTF8.GetString(input);
        if (parsed.GetValue(_plain) is not { } mode)
            return Task.FromResult(Encoding.UTF8.GetString(SealedText.Decrypt(text, keys, shown)));
        try
        {
            return Task.FromResult(Encoding.UTF8.GetString(JsonSerializer.Deserialize(text, CliJson.Default.PlainBox)!.Decrypt(Only(keys), AlgorithmNames.Key(parsed.GetValue(_wrap))!.Value, Mode(mode), shown)));
        }
        catch (Exception error) when (error is JsonException or ArgumentNullException or NullReferenceException)
        {
            throw new PayloadException("it is no JSON with the members wrapped-key and data, as cursiva payload encrypt --plain gives", error);
        }
    }

    private Task<string> SignAsync(ParseResult parsed, CommandContext place, IReadOnlyList<ExchangeKey> keys, byte[] input, Action<PayloadStep> shown, CancellationToken cancel) =>
        Task.FromResult(SignedText.Sign(input, Only(keys), parsed.GetValue(_signature) ?? SignatureAlgorithms.Usual(Only(keys)), parsed.GetValue(_detached), shown));

    private async Task<string> VerifyAsync(ParseResult parsed, CommandContext place, IReadOnlyList<ExchangeKey> keys, byte[] input, Action<PayloadStep> shown, CancellationToken cancel)
    {
        var detached = parsed.GetValue(_payload) is { } file ? await ReadAsync(file, cancel) : null;
        return Encoding.UTF8.GetString(SignedText.Verify(Encoding.UTF8.GetString(input), keys, detached, shown).Payload);
    }

    private async Task<Outcome> ValidateAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var document = Encoding.UTF8.GetString(await ReadAsync(parsed.GetValue(_file)!, cancel));
        var schema = Encoding.UTF8.GetString(await ReadAsync(parsed.GetValue(_schema)!, cancel));
        var mistakes = await ToldAsync(() => Task.FromResult(SchemaMistakes.Of(schema, document)));
        PayloadView.Show(place.Terminal, place.Json, mistakes);
        return mistakes.Count == 0 ? Outcome.Done : Outcome.ReportFailed;
    }

    private async Task<IReadOnlyList<ExchangeKey>> KeysAsync(ParseResult parsed, CommandContext place, CancellationToken cancel)
    {
        var services = place.Open();
        var password = parsed.GetValue(_keyPassword) is { } source ? (await services.Secrets.ReadAsync(SecretSource.TryParse(source)!, cancel)).Reveal() : null;
        var bytes = await services.Secrets.ReadBytesAsync(SecretSource.TryParse(parsed.GetValue(_key)!)!, cancel);
        var keys = await ToldAsync(() => Task.FromResult(ExchangeKeys.Read(bytes, password)));
        if (parsed.GetValue(_keyId) is not { } id)
            return keys;
        return keys is [{ Id: null }] ? [new ExchangeKey { Id = id, Rsa = keys[0].Rsa, Curve = keys[0].Curve, Secret = keys[0].Secret, Certificate = keys[0].Certificate, IsPrivate = keys[0].IsPrivate }]
            : keys.Where(key => key.Id == id).ToList() is { Count: > 0 } chosen ? chosen
            : throw new RefusedException(new Refusal(Outcome.WrongCommandLine, $"there is no key with the id '{id}'") { NextStep = $"name one of {string.Join(", ", keys.Select(key => key.Id).OfType<string>().Select(OneLine.Of))}" });
    }

    private static ExchangeKey Only(IReadOnlyList<ExchangeKey> keys) => keys is [var only] ? only : throw new PayloadException($"there are {keys.Count} keys, and --key-id names none of them");

    private static PlainCipher Mode(string word) => Enum.Parse<PlainCipher>(word, ignoreCase: true);

    private static async Task<T> ToldAsync<T>(Func<Task<T>> work)
    {
        try
        {
            return await work();
        }
        catch (PayloadException error)
        {
            throw new RefusedException(new Refusal(Outcome.ReportFailed, error.Message) { NextStep = "compare the key, its half and the algorithm with what the other side has written" }, error);
        }
    }

    private static Task<byte[]> ReadAsync(string file, CancellationToken cancel) => InputFile.ReadAsync(
        file,
        why => new Refusal(Outcome.WrongCommandLine, $"'{file}' cannot be read: {why}") { NextStep = "name a file that exists and that you may read" },
        cancel);
}
