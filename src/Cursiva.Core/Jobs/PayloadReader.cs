using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads what is encrypted and signed of an identity's, an API's or a pull's exchange.</summary>
internal sealed class PayloadReader(Reading reading)
{
    // Stands in for a key that is missing, which is a mistake already; the other keys are read nevertheless.
    private static readonly KeySource s_none = new(null, null, null, null);

    public SignInEncryption? SignIn(SectionReader identity)
    {
        if (identity.Inside(PayloadKeys.SignIn, reading) is not { } section)
            return null;
        var key = Source(section, PayloadKeys.KeyOf) ?? s_none;
        var members = section.Pointers(PayloadKeys.Members);
        if (members.Count > 0 && section.Has(PayloadKeys.At))
            Wrong(section, PayloadKeys.At, "both members: and at:", "use members: for single members, or at: for the whole body");
        if (identity.Choice(IdentityKeys.TokenBody) != "json" && (members.Count == 0 || section.Has(PayloadKeys.At)))
            reading.Add(
                section.Place,
                $"{section.Title} encrypts the whole body, which is a form",
                "add token-body: json to the identity, or name members:");
        return new SignInEncryption(key, section.Choice(PayloadKeys.PublicAlgorithm) ?? Ciphers.UnderPublicKeys[0])
        {
            Members = members,
            At = section.Pointer(PayloadKeys.At),
            Content = section.Choice(PayloadKeys.SignInContent),
            Base64First = section.Switch(PayloadKeys.Base64First) == true,
            AnswerAt = section.Pointer(PayloadKeys.SignInAnswerAt),
            SessionKey = Session(section, members),
        };
    }

    public BodyEncryption? Bodies(SectionReader owner, string? identity, IReadOnlyDictionary<string, DeclaredIdentity> identities)
    {
        if (owner.Inside(PayloadKeys.Body, reading) is not { } section)
            return null;
        var cipher = section.Choice(PayloadKeys.Cipher) ?? Ciphers.Jwe;
        var key = section.Text(PayloadKeys.BodyKey) is null or KeySource.Session ? null : Source(section, PayloadKeys.BodyKey);
        if (cipher != Ciphers.None && section.Text(PayloadKeys.BodyKey) is null or KeySource.Session)
            CheckSession(section, identity, identities);
        if (section.Has(PayloadKeys.Members) && section.Has(PayloadKeys.RequestAt))
            Wrong(
                section,
                PayloadKeys.RequestAt,
                "both members: and request-at:",
                "use members: for single members, or request-at: for the whole body");
        if (section.Has(PayloadKeys.MessageKeyAt) && (cipher == Ciphers.Jwe || key is null))
            Wrong(
                section,
                PayloadKeys.MessageKeyAt,
                $"key-at: with {(key is null ? "the session key" : "JWE, which has its key inside")}",
                "remove it, or set key: to the other side's public key and cipher: to a plain cipher");
        return new BodyEncryption(cipher, key)
        {
            OpenWith = section.Has(PayloadKeys.OpenWith) ? Source(section, PayloadKeys.OpenWith) : null,
            Algorithm = section.Choice(PayloadKeys.BodyAlgorithm),
            Content = section.Choice(PayloadKeys.BodyContent) ?? Ciphers.OfContents[0],
            RequestAt = section.Pointer(PayloadKeys.RequestAt),
            Members = section.Pointers(PayloadKeys.Members),
            AnswerAt = section.Pointer(PayloadKeys.AnswerAt),
            KeyAt = section.Pointer(PayloadKeys.MessageKeyAt),
            Base64First = section.Switch(PayloadKeys.Base64First) == true,
            ByLine = section.Switch(PayloadKeys.ByLine) == true,
            RefusedWhen = [.. section.RawTextsMap(PayloadKeys.RefusedWhen).GroupBy(item => item.Name).Select(group => KeyValuePair.Create(
                section.Pointer(group.Key, group.First().Place, PayloadKeys.RefusedWhen) ?? JsonPointer.TryParse("")!,
                (IReadOnlyList<string>)[.. group.Select(item => reading.Fill(item.Text, item.Place))]))],
        };
    }

    /// <param name="ofPull">Whether there are rows to verify.</param>
    public Signatures? Signatures(SectionReader owner, bool ofPull)
    {
        if (owner.Inside(PayloadKeys.Signatures, reading) is not { } section)
            return null;
        if (!ofPull && section.Has(PayloadKeys.Rows))
            Wrong(section, PayloadKeys.Rows, "rows: outside a pull", "write signatures: { rows: … } in the pull that fetches the rows");
        return new Signatures(Requests(section), Check(section, PayloadKeys.Answers), ofPull ? Check(section, PayloadKeys.Rows) : null);
    }

    private RequestSignature? Requests(SectionReader signatures)
    {
        if (signatures.Inside(PayloadKeys.Requests, reading) is not { } section)
            return null;
        var (form, key) = (section.Choice(PayloadKeys.RequestForm) ?? SignatureForms.Hmac, Source(section, PayloadKeys.KeyOf) ?? s_none);
        var isHmac = form == SignatureForms.Hmac;
        if (isHmac != section.Has(PayloadKeys.HmacText))
            reading.Add(
                section.Place,
                isHmac ? $"{section.Title} has no text" : $"{section.Title} has a text, but form: {form} does not use one",
                isHmac ? $"add text: {PayloadKeys.HmacText.Example}" : "remove text:, or write form: hmac-sha256");
        var names = form == SignatureForms.Message ? Ciphers.OfSignedMessages : Ciphers.OfSignedTexts;
        var algorithm = section.Choice(PayloadKeys.RequestAlgorithm);
        if (algorithm is not null && !isHmac && !names.Contains(algorithm))
            Wrong(section, PayloadKeys.RequestAlgorithm, $"form: {form} with {algorithm}", $"write one of {string.Join(", ", names)}");
        var header = section.Text(PayloadKeys.RequestHeader) ?? (isHmac ? "X-Signature" : "X-JWS-Signature");
        if (!Confines.IsHeaderName(header))
            Wrong(
                section,
                PayloadKeys.RequestHeader,
                $"'{header}', which is not a header name",
                "write letters, digits and hyphens, with no space and no colon");
        return new RequestSignature(form, key)
        {
            Algorithm = algorithm,
            Header = header,
            Covers = section.Words(PayloadKeys.Covers),
            Text = section.RawText(PayloadKeys.HmacText) is { } text ? Later(text, section.At(PayloadKeys.HmacText)) : null,
            Beside = [.. section.RawTextMap(PayloadKeys.HmacBeside)
                .Select(item => (item.Name, Value: Later(item.Text, item.Place)))
                .Where(item => item.Value is not null)
                .Select(item => KeyValuePair.Create(item.Name, item.Value!))],
            InHex = section.Choice(PayloadKeys.Encoding) == "hex",
        };
    }

    private Template? Later(string text, Place place) =>
        reading.FillBut(text, place, RequestSignature.TextNames.Contains, RequestSignature.TextNames);

    private SignatureCheck? Check(SectionReader signatures, Key which)
    {
        if (signatures.Inside(which, reading) is not { } section)
            return null;
        var (form, key) = (section.Choice(PayloadKeys.Form) ?? SignatureForms.Jws, Source(section, PayloadKeys.KeyOf) ?? s_none);
        var ofRows = which == PayloadKeys.Rows;
        if (ofRows && form == SignatureForms.Message)
            Wrong(
                section,
                PayloadKeys.Form,
                $"form: {form} of a row",
                "a row is not an HTTP message: write jws or jws-detached, or verify answers:");
        if (form == SignatureForms.Detached && !section.Has(PayloadKeys.SignedAt) && (ofRows || !section.Has(PayloadKeys.SignedHeader)))
            reading.Add(
                section.Place, $"{section.Title} does not say where the detached signature is", ofRows ? "add at:" : "add header:, or at:");
        if (ofRows && form == SignatureForms.Jws && !section.Has(PayloadKeys.SignedAt))
            reading.Add(
                section.Place, $"{section.Title} does not say where a row has the signed text", $"add at: {PayloadKeys.SignedAt.Example}");
        return new SignatureCheck(form, key)
        {
            At = section.Pointer(PayloadKeys.SignedAt),
            Header = ofRows ? null : section.Text(PayloadKeys.SignedHeader),
            PayloadAt = section.Pointer(PayloadKeys.PayloadAt),
            Issuer = section.Text(PayloadKeys.Issuer),
            Covers = ofRows ? [] : section.Words(PayloadKeys.Covers),
            MayBeUnverified = section.Choice(PayloadKeys.WhenUnverified) == "report",
            JoinsAs = ofRows ? section.Text(PayloadKeys.JoinsAs) : null,
            By = section.Text(PayloadKeys.By),
        };
    }

    private SessionKeyPlaces? Session(SectionReader encryption, IReadOnlyList<JsonPointer> members)
    {
        if (encryption.Inside(PayloadKeys.SessionKey, reading) is not { } section)
            return null;
        var sendAt = section.Pointer(PayloadKeys.SendAt) ?? JsonPointer.ToField("");
        if (members.Count > 0 && members.All(member => member.Text != sendAt.Text))
            Wrong(
                section,
                PayloadKeys.SendAt,
                $"{sendAt.Text}, which members: does not encrypt",
                $"add {sendAt.Text} to members:, so that the key is not sent in the clear");
        return new SessionKeyPlaces(section.Whole(PayloadKeys.Bytes) ?? 32, sendAt)
        {
            SendsText = section.Choice(PayloadKeys.SendAs) == "base64",
            AnswerAt = section.Pointer(PayloadKeys.SessionAt),
            Wrapped = section.Choice(PayloadKeys.Wrapped) ?? Ciphers.Ecb,
            EndsAt = section.Pointer(PayloadKeys.SessionEndsAt),
        };
    }

    private void CheckSession(SectionReader section, string? identity, IReadOnlyDictionary<string, DeclaredIdentity> identities)
    {
        if (identity is null)
            reading.Add(
                section.Place,
                $"{section.Title} uses the session key of a sign-in, but no identity signs in",
                "name an identity: with encryption: { session-key: … }, or the key under key:");
        else if (identities.TryGetValue(identity, out var known) && known.Encryption?.SessionKey is null)
            reading.Add(
                section.Place,
                $"{section.Title} uses the session key of a sign-in, but identity '{identity}' has none",
                "add encryption: { session-key: … } to the identity, or name the key under key:");
    }

    private KeySource? Source(SectionReader section, Key key)
    {
        var raw = section.RawText(key);
        if (raw is null)
            return null;
        var id = section.Has(PayloadKeys.KeyId) && key != PayloadKeys.OpenWith ? section.Text(PayloadKeys.KeyId) : null;
        var password = section.Has(PayloadKeys.KeyPassword) && section.SecretSources(PayloadKeys.KeyPassword) is [var found, ..]
            ? found
            : null;
        if (SecretSource.KindOf(raw) is null
            && reading.FillAddress(raw, section.At(key)).StartsWith("http", StringComparison.OrdinalIgnoreCase))
            return section.Address(key) is { } address ? new KeySource(null, address, id, null) : null;
        if (reading.Source(raw, section.At(key)) is { } source)
            return new KeySource(source, null, id, password);
        reading.Add(
            section.At(key), $"{key.Name} of {section.Title} is not a secret source", SecretSource.Right + "; or the https address of a JWK set");
        return null;
    }

    private void Wrong(SectionReader section, Key key, string what, string next) =>
        reading.Add(section.At(key), $"{section.Title} has {what}", next);
}
