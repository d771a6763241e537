namespace Cursiva.Core.Http;

/// <summary>
/// Finds out the window of an API whose limit nobody declares, from what it refuses with status 429. At a refusal the window is full: so
/// many
/// requests as were taken within it just then is what it allows. How long it is, the refusals tell together: of the right length they all
/// find the same number.
/// </summary>
public sealed class Pace(TimeProvider clock)
{
    private const int MostRemembered = 20_000;
    private const int MostRefusals = 4;
    private const int WindowsUntilMore = 10;
    private const double More = 1.1;

    // The lengths that limits have, in seconds.
    private static readonly TimeSpan[] s_lengths = [.. new[] { 1, 2, 5, 10, 30, 60, 300, 900, 3600 }.Select(
        seconds => TimeSpan.FromSeconds(seconds))];

    private static readonly TimeSpan s_lookAgain = TimeSpan.FromMilliseconds(20);

    private readonly Lock _gate = new();
    private readonly List<long> _taken = [];
    private readonly List<int[]> _refusals = [];
    private TimeSpan? _length;
    private double _count;
    private int _inFlight;
    private long _refusedAt;
    private bool _isOld;

    /// <summary>What is believed: so many requests within so long; null while nothing was refused.</summary>
    public (int Count, TimeSpan Length)? Believed
    {
        get
        {
            lock (_gate)
                return _length is { } length ? ((int)_count, length) : null;
        }
    }

    /// <summary>Takes a place in the window.</summary>
    /// <returns>Zero when the request may leave; otherwise how long it is until it is worth asking again.</returns>
    public TimeSpan Take()
    {
        lock (_gate)
        {
            if (_length is { } length)
            {
                var now = clock.GetTimestamp();
                if (clock.GetElapsedTime(_refusedAt, now) > length * WindowsUntilMore)
                    (_count, _refusedAt, _isOld) = (Math.Max(_count * More, _count + 1), now, true);
                var first = FirstWithin(length, now);
                if (_taken.Count - first + _inFlight >= (int)_count)
                    return first == _taken.Count ? s_lookAgain : length - clock.GetElapsedTime(_taken[first], now) + s_lookAgain;
            }

            _inFlight++;
            return TimeSpan.Zero;
        }
    }

    /// <summary>A request was answered, or failed.</summary>
    /// <param name="taken">Whether the API took it.</param>
    /// <param name="left">When it left, in ticks of the clock.</param>
    public void Over(bool taken, long left)
    {
        lock (_gate)
        {
            _inFlight--;
            if (!taken)
                return;

            // It was on its way when another one was refused: it had a place in the window that was full.
            if (_refusals.Count > 0 && left < _refusedAt && !_isOld)
            {
                for (var place = 0; place < s_lengths.Length; place++)
                    _refusals[^1][place]++;
                Believe();
            }

            _taken.Add(clock.GetTimestamp());
            if (_taken.Count > MostRemembered)
                _taken.RemoveRange(0, MostRemembered / 2);
        }
    }

    /// <summary>The API refused a request as one too many.</summary>
    /// <param name="left">When it left: of those that left together, one is enough.</param>
    public void Refused(long left)
    {
        lock (_gate)
        {
            if (_refusals.Count > 0 && left < _refusedAt)
                return;
            _refusedAt = clock.GetTimestamp();
            _refusals.Add([.. s_lengths.Select(length => _taken.Count - FirstWithin(length, _refusedAt))]);
            if (_refusals.Count > MostRefusals)
                _refusals.RemoveAt(0);
            _isOld = false;
            Believe();
        }
    }

    private void Believe()
    {
        var best = Enumerable.Range(0, s_lengths.Length).MinBy(place => (Spread(place), place));
        _length = s_lengths[best];
        _count = Math.Max(1, _refusals.Min(counts => counts[best]));
    }

    // How much the refusals differ in what they found, 0 for not at all.
    private double Spread(int place)
    {
        var counts = _refusals.Select(refusal => refusal[place]).ToList();
        return counts.Max() == 0 ? 1 : Math.Round((counts.Max() - counts.Min()) / (double)counts.Max(), 1);
    }

    private int FirstWithin(TimeSpan length, long now)
    {
        var first = _taken.Count;
        while (first > 0 && clock.GetElapsedTime(_taken[first - 1], now) < length)
            first--;
        return first;
    }
}
