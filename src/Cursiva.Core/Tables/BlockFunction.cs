using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>A table function of the engine, whose rows are blocks of texts: there is no copy of them in between.</summary>
internal sealed unsafe class BlockFunction : IDisposable
{
    private readonly IReadOnlyList<string> _columns;
    private readonly Func<IBlocks> _begin;
    private GCHandle _self;

    /// <param name="name">Its name in SQL.</param>
    /// <param name="begin">Begins with the first block, each time that the rows are asked for.</param>
    /// <exception cref="SqlException">The engine does not take the function.</exception>
    public BlockFunction(DuckDBNativeConnection connection, string name, IReadOnlyList<string> columns, Func<IBlocks> begin)
    {
        (_columns, _begin) = (columns, begin);
        _self = GCHandle.Alloc(this);
        var function = NativeMethods.TableFunction.DuckDBCreateTableFunction();
        NativeMethods.TableFunction.DuckDBTableFunctionSetName(function, name);
        NativeMethods.TableFunction.DuckDBTableFunctionSetExtraInfo(function, GCHandle.ToIntPtr(_self), null);
        NativeMethods.TableFunction.DuckDBTableFunctionSetBind(function, &Bind);
        NativeMethods.TableFunction.DuckDBTableFunctionSetInit(function, &Init);
        NativeMethods.TableFunction.DuckDBTableFunctionSetFunction(function, &Next);
        var state = NativeMethods.TableFunction.DuckDBRegisterTableFunction(connection, function);
        NativeMethods.TableFunction.DuckDBDestroyTableFunction(ref function);
        if (state != DuckDBState.Success)
            throw new SqlException("the SQL engine accepts no rows", null);
    }

    public void Dispose() => _self.Free();

    private static T Of<T>(IntPtr handle) => (T)GCHandle.FromIntPtr(handle).Target!;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void Bind(IntPtr info)
    {
        using var text = NativeMethods.LogicalType.DuckDBCreateLogicalType(DuckDBType.Varchar);
        foreach (var column in Of<BlockFunction>(NativeMethods.TableFunction.DuckDBBindGetExtraInfo(info))._columns)
            NativeMethods.TableFunction.DuckDBBindAddResultColumn(info, column, text);
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void Init(IntPtr info)
    {
        try
        {
            var blocks = Of<BlockFunction>(NativeMethods.TableFunction.DuckDBInitGetExtraInfo(info))._begin();
            NativeMethods.TableFunction.DuckDBInitSetInitData(info, GCHandle.ToIntPtr(GCHandle.Alloc(blocks)), &End);
        }
        catch (Exception error)
        {
            // Nothing may be thrown through the engine.
            NativeMethods.TableFunction.DuckDBInitSetError(info, error.Message);
        }
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void Next(IntPtr info, IntPtr output)
    {
        try
        {
            using var chunk = new DuckDBDataChunk(output);
            Of<IBlocks>(NativeMethods.TableFunction.DuckDBFunctionGetInitData(info)).Give(chunk);
        }
        catch (Exception error)
        {
            NativeMethods.TableFunction.DuckDBFunctionSetError(info, error.Message);
        }
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void End(IntPtr data)
    {
        var handle = GCHandle.FromIntPtr(data);
        ((IBlocks)handle.Target!).Dispose();
        handle.Free();
    }
}
