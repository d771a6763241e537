using System.IO.Compression;
using System.Text;
using Cursiva.Core.Http;

namespace Cursiva.Core.Tests.Http;

public sealed class PackingTests
{
    private static readonly byte[] s_text = Encoding.UTF8.GetBytes("one consignment of sea salt\n");

    [Fact]
    public async Task Codings_are_taken_off_in_the_order_in_which_they_were_not_put_on()
    {
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Fastest, leaveOpen: true))
        using (var brotli = new BrotliStream(gzip, CompressionLevel.Fastest))
            brotli.Write(s_text);
        packed.Position = 0;
        (await ReadAsync(Packing.Unpack(packed, ["br", "GZIP"]))).ShouldBe(s_text);
        (await ReadAsync(Packing.Unpack(new MemoryStream(s_text), ["identity"]))).ShouldBe(s_text);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    [InlineData(28)]
    public async Task What_begins_like_gzip_is_unpacked_and_all_else_stays_however_short(int length)
    {
        (await ReadAsync(await Gunzip.IfPackedAsync(new MemoryStream(s_text[..length]), CancellationToken.None))).ShouldBe(s_text[..length]);
        using var packed = new MemoryStream();
        using (var gzip = new GZipStream(packed, CompressionLevel.Fastest, leaveOpen: true))
            gzip.Write(s_text);
        packed.Position = 0;
        (await ReadAsync(await Gunzip.IfPackedAsync(packed, CancellationToken.None))).ShouldBe(s_text);
    }

    private static async Task<byte[]> ReadAsync(Stream stream)
    {
        using var whole = new MemoryStream();
        await stream.CopyToAsync(whole);
        return whole.ToArray();
    }
}
