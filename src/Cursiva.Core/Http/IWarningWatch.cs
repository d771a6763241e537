namespace Cursiva.Core.Http;

/// <summary>Is told what people should know though it stops nothing, by any thread.</summary>
public interface IWarningWatch
{
    /// <summary>Something is odd, and the work goes on.</summary>
    void Warned(string what);
}
