using System.Reflection;
using Cursiva.Core.Jobs;

namespace Cursiva.Core.Tests.Jobs;

/// <summary>Styles, formats and grants register themselves: a class that declares one is known, and each is declared once.</summary>
public sealed class RegisteredTests
{
    private static readonly Assembly s_core = typeof(PagingStyle).Assembly;

    [Fact]
    public void Every_class_that_declares_something_is_in_the_list_and_every_file_of_the_folders_declares_something()
    {
        Declared<PagingStyle>().ShouldBe(PagingStyles.All, ignoreOrder: true);
        Declared<FileFormat>().ShouldBe(FileFormats.All, ignoreOrder: true);
        Declared<Grant>().ShouldBe(DeclaredGrants.All, ignoreOrder: true);
        PagingStyles.All.Count.ShouldBe(10);
        FileFormats.All.Count.ShouldBe(11);
        DeclaredGrants.All.Count.ShouldBe(9);
    }

    [Fact]
    public void No_key_suffix_or_value_stands_for_two_of_them_and_one_style_is_that_of_a_pull_without_paging()
    {
        PagingStyles.All.SelectMany(style => style.Keys).Select(key => key.Name).ShouldBeUnique();
        FileFormats.All.Select(format => format.Suffix).ShouldBeUnique();
        DeclaredGrants.All.Select(grant => grant.Value).ShouldBeUnique();
        PagingStyles.All.Count(style => style.HasOnePage).ShouldBe(1);
        FileSuffixes.Of("mail.fragment.html")!.Value.Format.Suffix.ShouldBe(".fragment.html");
    }

    private static List<T> Declared<T>() => [.. s_core.GetTypes()
        .Select(type => type.GetProperty("Declared", BindingFlags.Static | BindingFlags.Public | BindingFlags.NonPublic)?.GetValue(null))
        .SelectMany(declared => declared is T one ? [one] : declared is IEnumerable<T> several ? several : [])];
}
