namespace Cursiva.Core.Reports;

/// <summary>Parts of a page that stand together.</summary>
internal enum HtmlPageGroup
{
    None,
    Figures,
    Charts,
}
