namespace Cursiva.Core.Jobs;

/// <summary>Each file is uploaded to an API by steps.</summary>
/// <param name="Work">The steps, with each file as an item.</param>
public sealed record UploadWay(Write Work) : DeliveryWay
{
    /// <summary>What the file is called in placeholders.</summary>
    public const string File = "file";

    /// <inheritdoc/>
    public override T Of<T>(IDeliveryWays<T> ways) => ways.Of(this);
}
