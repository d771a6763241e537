using Cursiva.Core.Apis;

namespace Cursiva.Core.Pulls;

/// <summary>A page is not what the pull expects; it may be fetched again.</summary>
internal sealed class OddPage(PageException error, ApiRequest request, int status, byte[] content) : Exception(error.Message, error)
{
    public PageException Error => error;

    public ApiRequest Request => request;

    public int Status => status;

    /// <summary>The page as it came.</summary>
    public byte[] Content => content;
}
