namespace Cursiva.Cli.Tests;

/// <summary>How a program ended.</summary>
internal sealed record Ended(int Code, string Out, string Error)
{
    public string All => Out + Error;

    public Ended ShouldEndWith(int code)
    {
        Code.ShouldBe(code, All);
        return this;
    }
}
