namespace Cursiva.Core.Reports;

/// <summary>Parts of a page that stand together.</summary>
internal enum PageGroup
{
    None,
    Figures,
    Charts,
}
