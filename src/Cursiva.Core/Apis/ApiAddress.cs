using Cursiva.Core.Http;
using Cursiva.Core.Jobs;
using Cursiva.Core.Refusals;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Apis;

/// <summary>The addresses of an API.</summary>
public static class ApiAddress
{
    /// <summary>
    /// The API's base with the path appended, never resolved: one slash between them whatever either has. Query parameters of
    /// the API are added where the path does not have them itself; those that are secrets are not, since addresses are shown and kept.
    /// </summary>
    /// <exception cref="RefusedException">The path has a segment that leads upwards.</exception>
    public static Uri Of(Api api, string path)
    {
        var question = path.IndexOf('?', StringComparison.Ordinal);
        var (plain, query) = question < 0 ? (path, "") : (path[..question], path[(question + 1)..]);
        if (Confines.Path(plain) is { } wrong)
        {
            throw new RefusedException(new Refusal(
                Outcome.ApiFailed, $"a path of API '{api.Name}' would contain {wrong}: {OneLine.Of(plain)}")
            {
                Cause = "a value filled into the path is . or .., or has one between slashes",
                NextStep = "exclude such rows: repeat the pull for a query over the earlier one",
            });
        }

        var joined = api.Base.GetLeftPart(UriPartial.Path).TrimEnd('/') + (plain.Length > 0 ? "/" + plain.TrimStart('/') : "");
        var address = new UriBuilder(joined)
        {
            Query = string.Join('&', new[] { api.Base.Query.TrimStart('?'), query }.Where(part => part.Length > 0)),
        }.Uri;
        foreach (var (name, value) in api.QueryParameters.Where(pair => !pair.Value.IsSource))
            address = AddressQuery.With(address, name, value.TryFill(_ => null)!.Text, replace: false);
        return address;
    }

    /// <summary>Whether an address has the origin (RFC 6454 section 4) of the API's base.</summary>
    public static bool IsWithin(Api api, Uri address) =>
        address.IsAbsoluteUri
        && address.Scheme == api.Base.Scheme
        && address.Host.Equals(api.Base.Host, StringComparison.OrdinalIgnoreCase)
        && address.Port == api.Base.Port;

    /// <summary>
    /// Whether links may lead to an address, and credentials with them: the origin of the API, and those that it names besides.
    /// </summary>
    /// <returns>True for both; false for the link alone; null for neither.</returns>
    public static bool? MayGo(Api api, Uri address) =>
        IsWithin(api, address) ? true : address.IsAbsoluteUri
            && api.AlsoOrigins.TryGetValue(OriginOf(address), out var signedIn) ? signedIn : null;

    /// <summary>Scheme, host and port of an address, without a path.</summary>
    public static string OriginOf(Uri address) => address.GetLeftPart(UriPartial.Authority);
}
