using Cursiva.Core.Identity;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Deliveries;

/// <summary>The carriers of a job's deliveries.</summary>
/// <param name="job">The job's name.</param>
/// <param name="tokens">The tokens of an identity.</param>
public sealed class Carriers(string job, SignInServices services, Func<DeclaredIdentity?, ITokens?> tokens) : IDeliveryWays<ICarrier>
{
    /// <inheritdoc/>
    public ICarrier Of(MailWay way) => new MailCarrier(job, way, services, tokens(way.Identity));

    /// <inheritdoc/>
    public ICarrier Of(FolderWay way) => new FolderCarrier(way, services.Disk, services.Folder);

    /// <inheritdoc/>
    public ICarrier Of(SftpWay way) => new SftpCarrier(way, services);

    /// <inheritdoc/>
    public ICarrier Of(TableWay way) => new TableCarrier(way, services);

    /// <inheritdoc/>
    public ICarrier Of(MessageWay way) => new MessageCarrier(way, services);
}
