namespace Cursiva.Core.Secrets;

/// <summary>A secret that cannot be written out by accident: only <see cref="Reveal"/> gives it away.</summary>
public sealed class SecretText(string value)
{
    /// <summary>The secret itself, for the request that needs it.</summary>
    public string Reveal() => value;

    /// <inheritdoc/>
    public override string ToString() => Redactor.Mask;
}
