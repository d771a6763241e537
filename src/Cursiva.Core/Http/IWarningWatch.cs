namespace Cursiva.Core.Http;

/// <summary>Is told what people should know though it stops nothing, by any thread.</summary>
public interface IWarningWatch
{
    void Warned(string what);
}
