namespace Cursiva.Core.State;

/// <summary>A lease that is renewed until it is disposed of. It counts as lost as soon as another machine could have taken it.</summary>
internal sealed class PostgresLease : ILease
{
    private readonly PostgresLink _link;
    private readonly Guid _token;
    private readonly TimeSpan _lives;
    private readonly TimeProvider _clock;
    private readonly CancellationTokenSource _lost = new();
    private readonly CancellationTokenSource _ended = new();
    private readonly Task _renewing;
    private long _renewed;
    private bool _disposed;

    /// <param name="asked">When it was asked for, before the database counted.</param>
    public PostgresLease(PostgresLink link, string name, Guid token, long fence, TimeSpan lives, long asked, TimeProvider clock)
    {
        (_link, Name, _token, Fence, _lives, _renewed, _clock) = (link, name, token, fence, lives, asked, clock);
        Lost = _lost.Token;
        _renewing = Task.Run(RenewAsync);
    }

    /// <inheritdoc/>
    public string Name { get; }

    /// <inheritdoc/>
    public long Fence { get; }

    /// <inheritdoc/>
    public CancellationToken Lost { get; }

    /// <inheritdoc/>
    public void Require()
    {
        if (Lost.IsCancellationRequested || _clock.GetElapsedTime(Volatile.Read(ref _renewed)) >= _lives)
            throw new LeaseLostException(Name);
    }

    /// <inheritdoc/>
    public async ValueTask DisposeAsync()
    {
        if (_disposed)
            return;
        _disposed = true;
        await _ended.CancelAsync();
        await _renewing;
        try
        {
            using var soon = new CancellationTokenSource(TimeSpan.FromSeconds(2), _clock);
            await _link.OnceAsync(
                async connection =>
                {
                    // The row stays: the next holder's number is higher.
                    await using var give = PostgresLink.Command(
                        connection, "update cursiva.leases set until = clock_timestamp() where name = $1 and token = $2", Name, _token);
                    return await give.ExecuteNonQueryAsync(soon.Token);
                },
                soon.Token);
        }
        catch (Exception error) when (PostgresLink.MayPass(error) || error is OperationCanceledException)
        {
            // It ends by itself.
        }

        _ended.Dispose();
        _lost.Dispose();
    }

    private async Task RenewAsync()
    {
        try
        {
            while (!_lost.IsCancellationRequested)
            {
                await Task.Delay(_lives / 4, _clock, _ended.Token);
                if (!await RenewOnceAsync() || _clock.GetElapsedTime(_renewed) >= _lives)
                    await _lost.CancelAsync();
            }
        }
        catch (OperationCanceledException) when (_ended.IsCancellationRequested)
        {
            // It is given back.
        }
    }

    // False when somebody else has it. A database that does not answer takes it from nobody, as long as the time is not over.
    private async Task<bool> RenewOnceAsync()
    {
        while (true)
        {
            var asked = _clock.GetTimestamp();
            try
            {
                using var bound = CancellationTokenSource.CreateLinkedTokenSource(_ended.Token);
                bound.CancelAfter(_lives / 4);
                var renewed = await _link.OnceAsync(
                    async connection =>
                    {
                        await using var renew = PostgresLink.Command(
                            connection,
                            "update cursiva.leases set until = clock_timestamp() + $3 where name = $1 and token = $2",
                            Name,
                            _token,
                            _lives);
                        return await renew.ExecuteNonQueryAsync(bound.Token);
                    },
                    bound.Token);
                if (renewed == 0)
                    return false;
                Volatile.Write(ref _renewed, asked);
                return true;
            }
            catch (Exception error) when (!_ended.IsCancellationRequested
                && (PostgresLink.MayPass(error) || error is OperationCanceledException))
            {
                if (_clock.GetElapsedTime(_renewed) >= _lives)
                    return false;
                await Task.Delay(_lives / 20, _clock, _ended.Token);
            }
        }
    }
}
