using Cursiva.Core.Apis;
using Cursiva.Core.Http;

namespace Cursiva.Core.Pulls;

/// <summary>A page that was asked for.</summary>
/// <param name="Position">Where it is; null for the first one of a listing that sends nothing.</param>
/// <param name="Answer">Brings null when the API refuses the strand for a reason that the job allows.</param>
internal sealed record PageFetch(string? Position, ApiRequest Request, Task<Answer?> Answer);
