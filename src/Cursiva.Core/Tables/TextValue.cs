using System.Runtime.InteropServices;

namespace Cursiva.Core.Tables;

/// <summary>How the engine lays out a text: up to 12 bytes in place, longer ones behind a pointer.</summary>
[StructLayout(LayoutKind.Explicit, Size = 16)]
internal unsafe struct TextValue
{
    /// <summary>Most bytes that stand in place.</summary>
    public const int Inline = 12;

    [FieldOffset(0)]
    public uint Length;

    [FieldOffset(4)]
    public fixed byte Inside[Inline];

    [FieldOffset(8)]
    public byte* Pointer;
}
