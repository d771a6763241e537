using Cursiva.Core.Http;
using Cursiva.Core.Identity;
using Cursiva.Core.Pulls;
using Cursiva.Core.Reports;

namespace Cursiva.Core.Runs;

/// <summary>Is told how a run goes, by any thread.</summary>
public interface IRunWatch : IRequestWatch, ISignInWatch, IPullWatch
{
    /// <summary>A run begins, or is resumed.</summary>
    void Began(int run, bool goesOn, string reason);

    /// <summary>Something else begins that may take a while.</summary>
    void Doing(string what);

    /// <summary>A file of a report stands under its final name.</summary>
    void Wrote(WrittenFile file);
}
