using CsCheck;
using Cursiva.Core.Secrets;

namespace Cursiva.Core.Tests.Security;

/// <summary>Nothing from outside steers a terminal, begins a line of a log, or turns the reading direction.</summary>
public sealed class OneLineTests
{
    [Theory]
    [InlineData("plain é 漢字 😀 ₂", "plain é 漢字 😀 ₂")]
    [InlineData("a\nb\r\tc", "a\\nb\\r\\tc")]
    [InlineData("\u001b[2J\u001b]0;x\u0007", "\\u001b[2J\\u001b]0;x\\u0007")]
    [InlineData("\u0000\u007f\u0085\u009b31m", "\\u0000\\u007f\\u0085\\u009b31m")]
    [InlineData("\u202Eevil\u202C\u2066x\u2069\u200B\uFEFF\u061C", "\\u202eevil\\u202c\\u2066x\\u2069\\u200b\\ufeff\\u061c")]
    [InlineData("a\u2028b\u2029c", "a\\u2028b\\u2029c")]
    public void What_steers_is_escaped_and_all_else_stays(string text, string line) => OneLine.Of(text).ShouldBe(line);

    [Fact]
    public void Any_text_becomes_one_harmless_line() => Gen.String.Sample(text =>
    {
        var line = OneLine.Of(text);
        line.Any(c => char.IsControl(c) || char.GetUnicodeCategory(c) is System.Globalization.UnicodeCategory.Format or System.Globalization.UnicodeCategory.LineSeparator or System.Globalization.UnicodeCategory.ParagraphSeparator).ShouldBeFalse();
        OneLine.Of(line).ShouldBe(line);
    });
}
