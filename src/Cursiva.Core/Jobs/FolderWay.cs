namespace Cursiva.Core.Jobs;

/// <summary>Files are copied into a folder, such as a mounted share.</summary>
/// <param name="Path">The folder, from the job file's folder; names of the run are filled in.</param>
public sealed record FolderWay(Template Path) : DeliveryWay
{
    /// <inheritdoc/>
    public override T Of<T>(IDeliveryWays<T> ways) => ways.Of(this);
}
