using Cursiva.Core.Drafts;
using Cursiva.Core.Refusals;

namespace Cursiva.Cli.Commands;

/// <summary>Tells of a refused address what its command line can do about it: there is no job whose keys could be changed.</summary>
internal static class AskedRefusal
{
    /// <summary>Asks, and says more of a refusal that a sign-in would have changed.</summary>
    /// <param name="command">The command that the person typed.</param>
    public static async Task<T> ExplainAsync<T>(
        Func<Task<T>> ask, AskedApi asked, AskedSignIn signIn, string command, CancellationToken cancel)
    {
        try
        {
            return await ask();
        }
        catch (RefusedException error) when (error.Refusal.Status is 401 or 403 && !signIn.SignsIn)
        {
            throw new RefusedException(
                await SignInAdvice.OfAsync(
                    error.Refusal, asked.Challenge, asked.Job.Apis[AskedJob.Api], asked.Services, $"cursiva {command}", cancel),
                error);
        }
        catch (RefusedException error) when (error.Refusal.Status is 404 or 405 or 410 or 400 or 422)
        {
            throw new RefusedException(
                error.Refusal with { NextStep = "compare the address, its parameters and the method with the API's documentation" }, error);
        }
        catch (RefusedException error) when (error.Refusal.NextStep?.Contains("checkpoint", StringComparison.Ordinal) == true)
        {
            throw new RefusedException(error.Refusal with { NextStep = "run the same command later" }, error);
        }
    }
}
