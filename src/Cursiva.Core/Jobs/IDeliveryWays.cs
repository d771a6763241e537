namespace Cursiva.Core.Jobs;

/// <summary>Something for every way in which a delivery can leave the machine.</summary>
public interface IDeliveryWays<out T>
{
    /// <summary>For a mail.</summary>
    T Of(MailWay way);

    /// <summary>For a folder.</summary>
    T Of(FolderWay way);

    /// <summary>For a server that takes files by SFTP.</summary>
    T Of(SftpWay way);

    /// <summary>For a table of a database.</summary>
    T Of(TableWay way);

    /// <summary>For an upload to an API.</summary>
    T Of(UploadWay way);

    /// <summary>For a message to an address.</summary>
    T Of(MessageWay way);
}
