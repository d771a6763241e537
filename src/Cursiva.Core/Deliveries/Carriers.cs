using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;
using Cursiva.Core.Writes;

namespace Cursiva.Core.Deliveries;

/// <summary>The carriers of a job's deliveries.</summary>
/// <param name="job">The job's name.</param>
/// <param name="tokens">The tokens of an identity.</param>
/// <param name="files">Uploads files.</param>
public sealed class Carriers(
    string job, SignInServices services, Func<DeclaredIdentity?, ITokens?> tokens, FileDesk files) : IDeliveryWays<ICarrier>
{
    /// <inheritdoc/>
    public ICarrier Of(MailWay way) => new MailCarrier(job, way, services, tokens(way.Identity));

    /// <inheritdoc/>
    public ICarrier Of(FolderWay way) => new FolderCarrier(way, services.Disk, services.Folder);

    /// <inheritdoc/>
    public ICarrier Of(SftpWay way) => new SftpCarrier(way, services);

    /// <inheritdoc/>
    public ICarrier Of(UploadWay way) => new UploadCarrier(way, files);

    /// <inheritdoc/>
    public ICarrier Of(TableWay way) => new TableCarrier(way, services);

    /// <inheritdoc/>
    public ICarrier Of(MessageWay way) => new MessageCarrier(way, services);
}
