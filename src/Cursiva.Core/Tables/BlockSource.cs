using System.Globalization;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using DuckDB.NET.Native;

namespace Cursiva.Core.Tables;

/// <summary>
/// A table function of the engine, whose rows are the blocks that an appender has. So rows go into a table without a copy of their
/// own in between. Outside of an appender it refuses.
/// </summary>
internal sealed unsafe class BlockSource : IDisposable
{
    /// <summary>Its name in SQL.</summary>
    public const string Name = "_rows_on_their_way";

    private GCHandle _self;

    /// <exception cref="SqlException">The engine does not take the function.</exception>
    public BlockSource(DuckDBNativeConnection connection)
    {
        _self = GCHandle.Alloc(this);
        var function = NativeMethods.TableFunction.DuckDBCreateTableFunction();
        NativeMethods.TableFunction.DuckDBTableFunctionSetName(function, Name);
        NativeMethods.TableFunction.DuckDBTableFunctionSetExtraInfo(function, GCHandle.ToIntPtr(_self), null);
        NativeMethods.TableFunction.DuckDBTableFunctionSetBind(function, &Bind);
        NativeMethods.TableFunction.DuckDBTableFunctionSetInit(function, &Init);
        NativeMethods.TableFunction.DuckDBTableFunctionSetFunction(function, &Next);
        var state = NativeMethods.TableFunction.DuckDBRegisterTableFunction(connection, function);
        NativeMethods.TableFunction.DuckDBDestroyTableFunction(ref function);
        if (state != DuckDBState.Success)
            throw new SqlException("the SQL engine does not start", null);
    }

    /// <summary>Whose rows are read; null when there is none.</summary>
    public TextAppender? Appender { get; set; }

    public void Dispose() => _self.Free();

    private static BlockSource Of(IntPtr extra) => (BlockSource)GCHandle.FromIntPtr(extra).Target!;

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void Bind(IntPtr info)
    {
        if (Of(NativeMethods.TableFunction.DuckDBBindGetExtraInfo(info)).Appender is not { } appender)
        {
            NativeMethods.TableFunction.DuckDBBindSetError(info, $"{Name} is not for queries");
            return;
        }

        using var text = NativeMethods.LogicalType.DuckDBCreateLogicalType(DuckDBType.Varchar);
        for (var column = 0; column < appender.Columns; column++)
            NativeMethods.TableFunction.DuckDBBindAddResultColumn(info, "c" + column.ToString(CultureInfo.InvariantCulture), text);
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void Init(IntPtr info)
    {
        // Where it stands is the appender's to know.
    }

    [UnmanagedCallersOnly(CallConvs = [typeof(CallConvCdecl)])]
    private static void Next(IntPtr info, IntPtr output)
    {
        try
        {
            using var chunk = new DuckDBDataChunk(output);
            Of(NativeMethods.TableFunction.DuckDBFunctionGetExtraInfo(info)).Appender!.Give(chunk);
        }
        catch (Exception error)
        {
            // Nothing may be thrown through the engine.
            NativeMethods.TableFunction.DuckDBFunctionSetError(info, error.Message);
        }
    }
}
