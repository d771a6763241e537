namespace Cursiva.StandIn.Access;

/// <summary>
/// Refresh tokens in families: each use replaces the token, and one that comes twice ends its family (RFC 9700 section 4.14.2).
/// </summary>
public sealed class RefreshDesk(StandInOptions options)
{
    private readonly Lock _gate = new();
    private readonly Dictionary<string, Issued> _tokens = new(StringComparer.Ordinal);
    private long _renewals;
    private long _ended;
    private long _careless;

    /// <summary>
    /// Renewals, families that ended by reuse, and among these those whose newer token had been used already: these nobody may blame on a
    /// crash.
    /// </summary>
    public (long Renewals, long Ended, long Careless) Counts
    {
        get
        {
            lock (_gate)
                return (_renewals, _ended, _careless);
        }
    }

    /// <summary>The first token of a new family.</summary>
    public string Begin(string client, string subject, string scope)
    {
        lock (_gate)
            return Add(new Family(client, subject, scope));
    }

    /// <summary>Takes a token, and gives its successor.</summary>
    /// <exception cref="RefusedException">It is not good.</exception>
    public (string Successor, string Subject, string Scope) Use(string token, string client)
    {
        lock (_gate)
        {
            if (!_tokens.TryGetValue(token, out var issued) || issued.Family.Client != client)
                throw new RefusedException("invalid_grant", "the refresh token is not known");
            if (issued.Family.IsEnded)
                throw new RefusedException("invalid_grant", "the refresh token was revoked");
            if (DateTimeOffset.UtcNow > issued.Expires)
                throw new RefusedException("invalid_grant", "the refresh token has expired");
            if (issued.Successor is { } successor)
            {
                issued.Family.IsEnded = true;
                _ended++;
                if (_tokens[successor].Successor is not null || _tokens[successor].WasSeen)
                    _careless++;
                throw new RefusedException("invalid_grant", "the refresh token was used already; all of its family are revoked");
            }

            _renewals++;
            issued.WasSeen = true;
            if (options.Has("no-rotation"))
                return ("", issued.Family.Subject, issued.Family.Scope);
            issued.Successor = Add(issued.Family);
            return (issued.Successor, issued.Family.Subject, issued.Family.Scope);
        }
    }

    public bool IsGood(string token)
    {
        lock (_gate)
            return _tokens.TryGetValue(token, out var issued) && !issued.Family.IsEnded && issued.Successor is null;
    }

    /// <summary>Ends the family of a token; nothing happens when it is not known (RFC 7009 section 2.2).</summary>
    public void Revoke(string token)
    {
        lock (_gate)
        {
            if (_tokens.TryGetValue(token, out var issued))
                issued.Family.IsEnded = true;
        }
    }

    public void RevokeAll()
    {
        lock (_gate)
        {
            foreach (var issued in _tokens.Values)
                issued.Family.IsEnded = true;
        }
    }

    private string Add(Family family)
    {
        var token = "rt-" + Guid.NewGuid().ToString("n");
        _tokens[token] = new Issued(family, DateTimeOffset.UtcNow + options.RefreshLifetime);
        return token;
    }

    private sealed class Family(string client, string subject, string scope)
    {
        public string Client { get; } = client;

        public string Subject { get; } = subject;

        public string Scope { get; } = scope;

        public bool IsEnded { get; set; }
    }

    private sealed class Issued(Family family, DateTimeOffset expires)
    {
        public Family Family { get; } = family;

        public DateTimeOffset Expires { get; } = expires;

        public string? Successor { get; set; }

        public bool WasSeen { get; set; }
    }
}
