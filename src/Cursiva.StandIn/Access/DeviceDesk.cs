using System.Text.Json.Nodes;

namespace Cursiva.StandIn.Access;

/// <summary>Device codes (RFC 8628). They are confirmed by a request to /oauth2/device/confirm, as a person would in a browser.</summary>
public sealed class DeviceDesk(StandInOptions options)
{
    public const string Grant = "urn:ietf:params:oauth:grant-type:device_code";

    private readonly Lock _gate = new();
    private readonly Dictionary<string, Issued> _codes = new(StringComparer.Ordinal);

    public JsonObject Begin(Client client, string scope, string here)
    {
        var (device, user) = ("device-" + Guid.NewGuid().ToString("n"), Guid.NewGuid().ToString("n")[..8].ToUpperInvariant());
        lock (_gate)
            _codes[device] = new Issued(client.Id, user, scope, DateTimeOffset.UtcNow + options.DeviceLifetime);
        return new JsonObject
        {
            ["device_code"] = device,
            ["user_code"] = user,
            ["verification_uri"] = here + "/device",
            ["verification_uri_complete"] = $"{here}/oauth2/device/confirm?user_code={user}",
            ["expires_in"] = (int)options.DeviceLifetime.TotalSeconds,
            ["interval"] = 1,
        };
    }

    public bool Confirm(string userCode)
    {
        lock (_gate)
        {
            if (_codes.Values.FirstOrDefault(issued => issued.User == userCode) is not { } issued)
                return false;
            issued.Confirmed = true;
            return true;
        }
    }

    /// <exception cref="RefusedException">It is not confirmed yet, or not good.</exception>
    public (string Subject, string Scope) Poll(string device, Client client)
    {
        lock (_gate)
        {
            if (!_codes.TryGetValue(device, out var issued) || issued.Client != client.Id)
                throw new RefusedException("invalid_grant", "the device code is not known");
            if (DateTimeOffset.UtcNow > issued.Expires)
                throw new RefusedException("expired_token", "the device code has expired");
            if (++issued.Polls == 1)
                throw new RefusedException("slow_down", "poll more slowly");
            if (!issued.Confirmed)
                throw new RefusedException("authorization_pending", "the person has not confirmed yet");
            return ("person-17", issued.Scope);
        }
    }

    private sealed class Issued(string client, string user, string scope, DateTimeOffset expires)
    {
        public string Client { get; } = client;

        public string User { get; } = user;

        public string Scope { get; } = scope;

        public DateTimeOffset Expires { get; } = expires;

        public bool Confirmed { get; set; }

        public int Polls { get; set; }
    }
}
