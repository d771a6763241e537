using Cursiva.Core.Jobs.Shape;

namespace Cursiva.Core.Jobs;

/// <summary>Reads what is encrypted and signed of an identity's, an API's or a pull's exchange.</summary>
internal sealed class PayloadReader(Reading reading)
{
    // Stands in for a key that is missing, which is a mistake already; the other keys are read nevertheless.
    private static readonly KeySource s_none = new(null, null, null, null);

    public SignInEncryption? SignIn(SectionReader identity)
    {
        if (identity.Inside(EncryptionKeys.SignIn, reading) is not { } section)
            return null;
        var key = Source(section, EncryptionKeys.KeyOf) ?? s_none;
        var members = section.Pointers(EncryptionKeys.Members);
        if (members.Count > 0 && section.Has(EncryptionKeys.At))
            Wrong(section, EncryptionKeys.At, "both members: and at:", "use members: for single members, or at: for the whole body");
        if (identity.Choice(IdentityKeys.TokenBody) != "json" && (members.Count == 0 || section.Has(EncryptionKeys.At)))
            reading.Add(
                section.Place,
                $"{section.Title} encrypts the whole body, which is a form",
                "add token-body: json to the identity, or name members:");
        return new SignInEncryption(key, section.Choice(EncryptionKeys.PublicAlgorithm) ?? Ciphers.UnderPublicKeys[0])
        {
            Members = members,
            At = section.Pointer(EncryptionKeys.At),
            Content = section.Choice(EncryptionKeys.SignInContent),
            Base64First = section.Switch(EncryptionKeys.Base64First) == true,
            AnswerAt = section.Pointer(EncryptionKeys.SignInAnswerAt),
            SessionKey = Session(section, members),
        };
    }

    public BodyEncryption? Bodies(SectionReader owner, string? identity, IReadOnlyDictionary<string, DeclaredIdentity> identities)
    {
        if (owner.Inside(EncryptionKeys.Body, reading) is not { } section)
            return null;
        var cipher = section.Choice(EncryptionKeys.Cipher) ?? Ciphers.Jwe;
        var key = section.Text(EncryptionKeys.BodyKey) is null or KeySource.Session ? null : Source(section, EncryptionKeys.BodyKey);
        if (cipher != Ciphers.None && section.Text(EncryptionKeys.BodyKey) is null or KeySource.Session)
            CheckSession(section, identity, identities);
        if (section.Has(EncryptionKeys.Members) && section.Has(EncryptionKeys.RequestAt))
            Wrong(
                section,
                EncryptionKeys.RequestAt,
                "both members: and request-at:",
                "use members: for single members, or request-at: for the whole body");
        if (section.Has(EncryptionKeys.MessageKeyAt) && (cipher == Ciphers.Jwe || key is null))
            Wrong(
                section,
                EncryptionKeys.MessageKeyAt,
                $"key-at: with {(key is null ? "the session key" : "JWE, which has its key inside")}",
                "remove it, or set key: to the other side's public key and cipher: to a plain cipher");
        return new BodyEncryption(cipher, key)
        {
            OpenWith = section.Has(EncryptionKeys.OpenWith) ? Source(section, EncryptionKeys.OpenWith) : null,
            Algorithm = section.Choice(EncryptionKeys.BodyAlgorithm),
            Content = section.Choice(EncryptionKeys.BodyContent) ?? Ciphers.OfContents[0],
            RequestAt = section.Pointer(EncryptionKeys.RequestAt),
            Members = section.Pointers(EncryptionKeys.Members),
            AnswerAt = section.Pointer(EncryptionKeys.AnswerAt),
            KeyAt = section.Pointer(EncryptionKeys.MessageKeyAt),
            Base64First = section.Switch(EncryptionKeys.Base64First) == true,
            ByLine = section.Switch(EncryptionKeys.ByLine) == true,
            RefusedWhen = [.. section.RawTextsMap(EncryptionKeys.RefusedWhen).GroupBy(item => item.Name).Select(group => KeyValuePair.Create(
                section.Pointer(group.Key, group.First().Place, EncryptionKeys.RefusedWhen) ?? JsonPointer.TryParse("")!,
                (IReadOnlyList<string>)[.. group.Select(item => reading.Fill(item.Text, item.Place))]))],
        };
    }

    /// <param name="ofPull">Whether there are rows to verify.</param>
    public Signatures? Signatures(SectionReader owner, bool ofPull)
    {
        if (owner.Inside(SignatureKeys.Signatures, reading) is not { } section)
            return null;
        if (!ofPull && section.Has(SignatureKeys.Rows))
            Wrong(section, SignatureKeys.Rows, "rows: outside a pull", "write signatures: { rows: … } in the pull that fetches the rows");
        return new Signatures(Requests(section), Check(section, SignatureKeys.Answers), ofPull ? Check(section, SignatureKeys.Rows) : null);
    }

    private RequestSignature? Requests(SectionReader signatures)
    {
        if (signatures.Inside(SignatureKeys.Requests, reading) is not { } section)
            return null;
        var (form, key) = (section.Choice(SignatureKeys.RequestForm) ?? SignatureForms.Hmac, Source(section, EncryptionKeys.KeyOf) ?? s_none);
        var isHmac = form == SignatureForms.Hmac;
        if (isHmac != section.Has(SignatureKeys.HmacText))
            reading.Add(
                section.Place,
                isHmac ? $"{section.Title} has no text" : $"{section.Title} has a text, but form: {form} does not use one",
                isHmac ? $"add text: {SignatureKeys.HmacText.Example}" : "remove text:, or write form: hmac-sha256");
        var names = form == SignatureForms.Message ? Ciphers.OfSignedMessages : Ciphers.OfSignedTexts;
        var algorithm = section.Choice(SignatureKeys.RequestAlgorithm);
        if (algorithm is not null && !isHmac && !names.Contains(algorithm))
            Wrong(section, SignatureKeys.RequestAlgorithm, $"form: {form} with {algorithm}", $"write one of {string.Join(", ", names)}");
        var header = section.Text(SignatureKeys.RequestHeader) ?? (isHmac ? "X-Signature" : "X-JWS-Signature");
        if (!Confines.IsHeaderName(header))
            Wrong(
                section,
                SignatureKeys.RequestHeader,
                $"'{header}', which is not a header name",
                "write letters, digits and hyphens, with no space and no colon");
        return new RequestSignature(form, key)
        {
            Algorithm = algorithm,
            Header = header,
            Covers = section.Words(SignatureKeys.Covers),
            Text = section.RawText(SignatureKeys.HmacText) is { } text ? Later(text, section.At(SignatureKeys.HmacText)) : null,
            Beside = [.. section.RawTextMap(SignatureKeys.HmacBeside)
                .Select(item => (item.Name, Value: Later(item.Text, item.Place)))
                .Where(item => item.Value is not null)
                .Select(item => KeyValuePair.Create(item.Name, item.Value!))],
            InHex = section.Choice(SignatureKeys.Encoding) == "hex",
        };
    }

    private Template? Later(string text, Place place) =>
        reading.FillBut(text, place, RequestSignature.TextNames.Contains, RequestSignature.TextNames);

    private SignatureCheck? Check(SectionReader signatures, Key which)
    {
        if (signatures.Inside(which, reading) is not { } section)
            return null;
        var (form, key) = (section.Choice(SignatureKeys.Form) ?? SignatureForms.Jws, Source(section, EncryptionKeys.KeyOf) ?? s_none);
        var ofRows = which == SignatureKeys.Rows;
        if (ofRows && form == SignatureForms.Message)
            Wrong(
                section,
                SignatureKeys.Form,
                $"form: {form} of a row",
                "a row is not an HTTP message: write jws or jws-detached, or verify answers:");
        if (form == SignatureForms.Detached && !section.Has(SignatureKeys.SignedAt) && (ofRows || !section.Has(SignatureKeys.SignedHeader)))
            reading.Add(
                section.Place, $"{section.Title} does not say where the detached signature is", ofRows ? "add at:" : "add header:, or at:");
        if (ofRows && form == SignatureForms.Jws && !section.Has(SignatureKeys.SignedAt))
            reading.Add(
                section.Place, $"{section.Title} does not say where a row has the signed text", $"add at: {SignatureKeys.SignedAt.Example}");
        return new SignatureCheck(form, key)
        {
            At = section.Pointer(SignatureKeys.SignedAt),
            Header = ofRows ? null : section.Text(SignatureKeys.SignedHeader),
            PayloadAt = section.Pointer(SignatureKeys.PayloadAt),
            Issuer = section.Text(SignatureKeys.Issuer),
            Covers = ofRows ? [] : section.Words(SignatureKeys.Covers),
            MayBeUnverified = section.Choice(SignatureKeys.WhenUnverified) == "report",
            JoinsAs = ofRows ? section.Text(SignatureKeys.JoinsAs) : null,
            By = section.Text(SignatureKeys.By),
        };
    }

    private SessionKeyPlaces? Session(SectionReader encryption, IReadOnlyList<JsonPointer> members)
    {
        if (encryption.Inside(EncryptionKeys.SessionKey, reading) is not { } section)
            return null;
        var sendAt = section.Pointer(EncryptionKeys.SendAt) ?? JsonPointer.ToField("");
        if (members.Count > 0 && members.All(member => member.Text != sendAt.Text))
            Wrong(
                section,
                EncryptionKeys.SendAt,
                $"{sendAt.Text}, which members: does not encrypt",
                $"add {sendAt.Text} to members:, so that the key is not sent in the clear");
        return new SessionKeyPlaces(section.Whole(EncryptionKeys.Bytes) ?? 32, sendAt)
        {
            SendsText = section.Choice(EncryptionKeys.SendAs) == "base64",
            AnswerAt = section.Pointer(EncryptionKeys.SessionAt),
            Wrapped = section.Choice(EncryptionKeys.Wrapped) ?? Ciphers.Ecb,
            EndsAt = section.Pointer(EncryptionKeys.SessionEndsAt),
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
        var id = section.Has(EncryptionKeys.KeyId) && key != EncryptionKeys.OpenWith ? section.Text(EncryptionKeys.KeyId) : null;
        var password = section.Has(EncryptionKeys.KeyPassword) && section.SecretSources(EncryptionKeys.KeyPassword) is [var found, ..]
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
