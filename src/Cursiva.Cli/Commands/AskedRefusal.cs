using Cursiva.Core.Drafts;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary>Says of an address that refused a request what would let it in.</summary>
internal static class AskedRefusal
{
    /// <summary>Asks, and says more of a refusal that a sign-in would have changed.</summary>
    /// <param name="command">The command that the person typed.</param>
    public static async Task<T> ExplainAsync<T>(Func<Task<T>> ask, AskedApi asked, AskedSignIn signIn, string command, CancellationToken cancel)
    {
        try
        {
            return await ask();
        }
        catch (RefusedException error) when (error.Refusal.Status is 401 or 403 && !signIn.SignsIn)
        {
            throw new RefusedException(await SignInAdvice.OfAsync(error.Refusal, asked.Challenge,  asked.Job.Apis[AskedJob.Api], asked.Services, $"cursiva {command}", cancel), error);
        }
    }
}
