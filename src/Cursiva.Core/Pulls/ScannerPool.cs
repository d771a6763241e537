using System.Collections.Concurrent;

namespace Cursiva.Core.Pulls;

/// <summary>Scanners that are not in use: strands come and go, and a scanner has buffers.</summary>
internal sealed class ScannerPool(PageShape shape) : IDisposable
{
    private readonly ConcurrentBag<PageScanner> _idle = [];

    public PageScanner Rent() => _idle.TryTake(out var scanner) ? scanner : new PageScanner(shape);

    public void Return(PageScanner scanner) => _idle.Add(scanner);

    public void Dispose()
    {
        while (_idle.TryTake(out var scanner))
            scanner.Dispose();
    }
}
