using System.Text.Json.Serialization;

namespace Cursiva.Core.Jobs;

/// <summary>One request of a write-back.</summary>
/// <param name="Path">An RFC 6570 URI template.</param>
public sealed record WriteStep(string Name, [property: JsonIgnore] Place Place, StepMethod Method, string Path)
{
    /// <summary>When it is taken; null for always.</summary>
    public StepCondition? When { get; init; }

    /// <summary>Query parameters.</summary>
    public IReadOnlyList<KeyValuePair<string, DeclaredValue>> Query { get; init; } = [];

    /// <summary>Headers.</summary>
    public IReadOnlyList<KeyValuePair<string, DeclaredValue>> Headers { get; init; } = [];

    /// <summary>The body; null for none, and where <see cref="Text"/> is one.</summary>
    public DeclaredBody? Body { get; init; }

    /// <summary>Whether the body is sent as a form instead of JSON.</summary>
    public bool BodyIsForm { get; init; }

    /// <summary>A body that is not JSON.</summary>
    public Template? Text { get; init; }

    /// <summary>The media type of the body; null for the usual one.</summary>
    public string? Type { get; init; }

    /// <summary>Where the answer to a look has the array of things; null where the answer is the thing.</summary>
    public JsonPointer? Rows { get; init; }

    /// <summary>What the wanted thing has, and where.</summary>
    public IReadOnlyList<KeyValuePair<JsonPointer, Template>> Where { get; init; } = [];

    /// <summary>How the list of a look goes on.</summary>
    public Paging Paging { get; init; } = Paging.OnePage;

    /// <summary>Whether a look may find nothing.</summary>
    public bool MayFindNothing { get; init; }

    /// <summary>The ETag that the thing must still have; null for any.</summary>
    public Template? IfMatch { get; init; }

    /// <summary>Whether the API does nothing twice under one Idempotency-Key.</summary>
    public bool SendsKey { get; init; }

    /// <summary>The file of the JSON Schema that the body must fit; null for none.</summary>
    public string? Schema { get; init; }

    /// <summary>How its bodies are encrypted; null for what the write or its API says.</summary>
    public BodyEncryption? Encryption { get; init; }

    /// <summary>What of it is signed; null for what the write or its API says.</summary>
    public Signatures? Signatures { get; init; }

    /// <summary>How it sends the file of an upload.</summary>
    public FileBody File { get; init; }

    /// <summary>The field of the form that has the file.</summary>
    public string FormField { get; init; } = "file";

    /// <summary>Further fields of the form, before the file.</summary>
    public IReadOnlyList<KeyValuePair<string, DeclaredValue>> FormFields { get; init; } = [];

    /// <summary>Whether the digest of the file goes along (RFC 9530).</summary>
    public bool SendsDigest { get; init; }

    /// <summary>Bytes in a piece.</summary>
    public long PieceSize { get; init; } = 8 << 20;

    /// <summary>Whether the whole path is a value of an answer, which is an address then.</summary>
    [JsonIgnore]
    public bool IsLink =>
        PathTemplate.Names(Path, out _) is [var only]
            && Path == "{" + only + "}"
            && !only.StartsWith(Write.Row + ".", StringComparison.Ordinal)
            && only.Contains('.', StringComparison.Ordinal);

    /// <summary>Whether it looks and changes nothing.</summary>
    public bool IsLook => Method == StepMethod.Get;

    /// <summary>Whether it can be sent again without doing anything twice (RFC 9110 section 9.2.2).</summary>
    public bool MayRepeat => SendsKey || Method switch
    {
        StepMethod.Get or StepMethod.Put or StepMethod.Delete => true,
        StepMethod.Post or StepMethod.Patch => false,
    };

    /// <summary>The names that it fills in.</summary>
    public IEnumerable<string> Names =>
        [
            .. PathTemplate.Names(Path, out _),
            .. Query.Concat(Headers).Concat(FormFields).SelectMany(pair => pair.Value.Names),
            .. Body?.Names ?? [],
            .. Text?.Names ?? [],
            .. Where.SelectMany(pair => pair.Value.Names),
            .. IfMatch?.Names ?? [],
        ];
}
