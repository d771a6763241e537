namespace Cursiva.Core.Jobs;

/// <summary>Inputs that come from outside the job and the files it includes.</summary>
/// <param name="FromFiles">YAML or JSON files with <c>name: value</c> lines; later ones win.</param>
/// <param name="Values">Values of the command line; they win over everything.</param>
/// <param name="Environment">Looks up an environment variable; <c>CURSIVA_INPUT_NAME</c> gives the input <c>name</c>.</param>
public sealed record GivenInputs(
    IReadOnlyList<string> FromFiles, IReadOnlyList<KeyValuePair<string, string>> Values, Func<string, string?> Environment)
{
    /// <summary>What a run was given, when it is looked at again: it wins over the job's own values alone.</summary>
    public IReadOnlyDictionary<string, string> OfRun { get; init; } = new Dictionary<string, string>();

    /// <summary>The environment variable that gives an input.</summary>
    public static string VariableFor(string input) => "CURSIVA_INPUT_" + input.ToUpperInvariant().Replace('-', '_').Replace('.', '_');
}
