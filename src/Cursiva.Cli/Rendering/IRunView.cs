using Cursiva.Core.Runs;

namespace Cursiva.Cli.Rendering;

/// <summary>Shows a run while it goes on; disposing it draws the last state and ends the drawing.</summary>
internal interface IRunView : IRunWatch, IDisposable;
