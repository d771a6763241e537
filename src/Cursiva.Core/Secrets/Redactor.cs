using System.Buffers;
using Cursiva.Core.Refusals;

namespace Cursiva.Core.Secrets;

/// <summary>
/// Knows every secret that was read or obtained, and masks it in text from outside, in whatever usual form it stands there (promise 3).
/// Our own sentences are made of constants and are not masked: a secret that is an everyday word would be given away by the gap.
/// </summary>
public sealed class Redactor
{
    /// <summary>What stands in the place of a secret.</summary>
    public const string Mask = "[secret]";

    // What is shorter is masked only where it stands alone.
    private const int ShortestInside = 4;

    // So much of a secret's beginning or end, where a quotation was cut, is worth masking.
    private const int ShortestPiece = 12;

    private const int MostRecent = 64;

    private readonly Lock _gate = new();
    private readonly HashSet<string> _all = new(StringComparer.Ordinal);
    private volatile Known _known = Known.None;

    /// <summary>Remembers a secret.</summary>
    public SecretText Remember(string secret)
    {
        if (secret.Length > 0)
        {
            lock (_gate)
            {
                if (_all.Add(secret))
                    _known = _known.With(secret);
            }
        }

        return new SecretText(secret);
    }

    /// <summary>A text from outside, or a value, with every known secret masked: plain, encoded, wrapped, or cut off.</summary>
    public string Clean(string text) => _known.Clean(text, ownWords: false);

    /// <summary>A line of ours that may have values in it: secrets that nobody could take for a word are masked.</summary>
    public string CleanLine(string line) => _known.Clean(line, ownWords: true);

    /// <summary>A refusal with its sentences and quotations cleaned, each as a whole and before it is wrapped.</summary>
    public Refusal Clean(Refusal refusal) => refusal with
    {
        What = CleanLine(refusal.What),
        Cause = refusal.Cause is null ? null : CleanLine(refusal.Cause),
        NextStep = refusal.NextStep is null ? null : CleanLine(refusal.NextStep),
        Others = [.. refusal.Others.Select(CleanLine)],
        Quote = refusal.Quote is null ? null : Clean(refusal.Quote),
        Request = refusal.Request is null ? null : Clean(refusal.Request),
    };

    // What is looked for: many secrets at once, and a few that were added since.
    private sealed record Known(IReadOnlyList<Secret> Settled, SearchValues<string> SettledStarts, IReadOnlyList<Secret> Recent)
    {
        private readonly IReadOnlyList<Secret> _withSigns = [.. Settled.Concat(Recent).Where(secret => secret.HasSigns)];
        private readonly Lazy<SearchValues<string>> _recentStarts = new(() => StartsOf(Recent));

        public static Known None { get; } = new([], SearchValues.Create([], StringComparison.Ordinal), []);

        public Known With(string secret)
        {
            Secret[] recent = [.. Recent, new Secret(secret)];
            if (recent.Length <= MostRecent)
                return new Known(Settled, SettledStarts, recent);
            Secret[] all = [.. Settled, .. recent];
            return new Known(all, StartsOf(all), []);
        }

        public string Clean(string text, bool ownWords)
        {
            if (text.Length == 0 || Settled.Count + Recent.Count == 0)
                return text;
            List<(int Start, int End)>? found = null;
            var readings = EncodedText.ReadingsOf(text);
            foreach (var secret in _withSigns.Where(secret => secret.IsDistinctive || !ownWords))
            {
                foreach (var place in readings.First().PlacesOf(secret.Plain))
                    (found ??= []).Add(place);
            }

            foreach (var reading in readings)
            {
                foreach (var secret in In(reading.Text, SettledStarts, Settled).Concat(In(reading.Text, _recentStarts.Value, Recent)))
                {
                    if (ownWords && !secret.IsDistinctive)
                        continue;
                    foreach (var (start, end) in secret.In(reading.Text))
                        (found ??= []).Add(reading.Original(start, end));
                }
            }

            return found is null ? text : Masked(text, found);
        }

        // Most texts have none of them.
        private static IReadOnlyList<Secret> In(string text, SearchValues<string> starts, IReadOnlyList<Secret> secrets) =>
            text.AsSpan().IndexOfAny(starts) >= 0 ? secrets : [];

        private static SearchValues<string> StartsOf(IReadOnlyList<Secret> secrets) =>
            SearchValues.Create([.. secrets.SelectMany(known => known.Starts).Distinct()], StringComparison.Ordinal);

        private static string Masked(string text, List<(int Start, int End)> found)
        {
            found.Sort();
            var masked = new System.Text.StringBuilder();
            var at = 0;
            for (var i = 0; i < found.Count;)
            {
                var (start, end) = found[i];
                for (i++; i < found.Count && found[i].Start <= end; i++)
                    end = Math.Max(end, found[i].End);
                masked.Append(text, at, start - at).Append(Mask);
                at = end;
            }

            return masked.Append(text, at, text.Length - at).ToString();
        }
    }

    private sealed class Secret
    {
        private readonly string _plain;
        private readonly string[] _base64;

        public Secret(string plain)
        {
            _plain = plain;
            _base64 = plain.Length >= ShortestInside ? [.. SecretForms.Base64Of(plain)] : [];
            IsDistinctive = SecretForms.IsDistinctive(plain);
        }

        public bool IsDistinctive { get; }

        public string Plain => _plain;

        /// <summary>Whether it has the signs of an encoding in itself, so that decoding a text may read on in it.</summary>
        public bool HasSigns => _plain.Length >= ShortestInside && _plain.AsSpan().ContainsAny('%', '\\', '&');

        // One of these stands in every text that has the secret or a piece of it.
        public IEnumerable<string> Starts => new[] { _plain, Form(_plain) }.Concat(_base64)
            .SelectMany(form => form.Length > ShortestPiece ? [form[..ShortestPiece], form[^ShortestPiece..]] : new[] { form });

        public IEnumerable<(int Start, int End)> In(string text)
        {
            foreach (var place in Whole(text, _plain, isBase64: false))
                yield return place;
            if (Form(_plain) is var form && form != _plain)
            {
                foreach (var place in Whole(text, form, isBase64: false))
                    yield return place;
            }

            foreach (var encoded in _base64)
            {
                foreach (var place in Whole(text, encoded, isBase64: true))
                    yield return place;
            }

            foreach (var cut in Pieces(text, _plain))
                yield return cut;
            if (_base64.Length > 0)
            {
                foreach (var cut in Pieces(text, _base64[0]))
                    yield return cut;
            }
        }

        // A space is a plus in a form (WHATWG URL, section 5).
        private static string Form(string plain) => plain.Replace(' ', '+');

        private static IEnumerable<(int Start, int End)> Whole(string text, string form, bool isBase64)
        {
            for (var at = text.IndexOf(form, StringComparison.Ordinal); at >= 0; at = at + 1 < text.Length
                ? text.IndexOf(form, at + 1, StringComparison.Ordinal)
                : -1)
            {
                var (start, end) = (at, at + form.Length);
                if (form.Length < ShortestInside && !(IsEdge(text, start - 1) && IsEdge(text, end)))
                    continue;
                if (isBase64)
                {
                    while (start > 0 && IsBase64(text[start - 1]))
                        start--;
                    while (end < text.Length && IsBase64(text[end]))
                        end++;

                    // A short one stands in many a word.
                    if (form.Length < 8 && (start != at || text.AsSpan(at, end - at).TrimEnd('=').Length != form.Length))
                        continue;
                }

                yield return (start, end);
            }
        }

        // The beginning or the end of a secret where somebody cut it: at an edge of the text or of a word.
        private static IEnumerable<(int Start, int End)> Pieces(string text, string form)
        {
            if (form.Length <= ShortestPiece || text.Length < ShortestPiece)
                yield break;
            var (head, tail) = (form[..ShortestPiece], form[^ShortestPiece..]);
            for (var at = text.IndexOf(head, StringComparison.Ordinal); at >= 0; at = text.IndexOf(head, at + 1, StringComparison.Ordinal))
            {
                var end = at + ShortestPiece;
                while (end < text.Length && end - at < form.Length && text[end] == form[end - at])
                    end++;
                if (IsCutBefore(text, end) || (IsEdge(text, end) && SecretForms.IsDistinctive(text[at..end])))
                    yield return (at, end);
            }

            for (var at = text.IndexOf(tail, StringComparison.Ordinal); at >= 0; at = text.IndexOf(tail, at + 1, StringComparison.Ordinal))
            {
                var (start, end) = (at, at + ShortestPiece);
                while (start > 0 && end - start < form.Length && text[start - 1] == form[form.Length - (end - start) - 1])
                    start--;
                if (IsCutBehind(text, start) || (IsEdge(text, start - 1) && SecretForms.IsDistinctive(text[start..end])))
                    yield return (start, end);
            }
        }

        private static bool IsCutBefore(string text, int at) => at == text.Length || text.AsSpan(at).StartsWith("...") || text[at] == '…';

        private static bool IsCutBehind(string text, int at) => at == 0 || text.AsSpan(0, at).EndsWith("...") || text[at - 1] == '…';

        private static bool IsEdge(string text, int at) => at < 0 || at >= text.Length || !char.IsLetterOrDigit(text[at]);

        private static bool IsBase64(char c) => char.IsAsciiLetterOrDigit(c) || c is '+' or '/' or '-' or '_' or '=';
    }
}
