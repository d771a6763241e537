namespace Cursiva.Core.Landing;

/// <summary>Why a strand was skipped.</summary>
/// <param name="Status">The status of the answer; 0 for a refused sign-in.</param>
/// <param name="Because">The reason in the job's words, or the cause that we know.</param>
/// <param name="Said">The other side's own words.</param>
/// <param name="Request">Method and address.</param>
public sealed record LandedSkip(int Status, string Because, string Said, string Request);
