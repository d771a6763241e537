namespace Cursiva.Core.Pulls;

/// <summary>A strand has to begin again from its first page; what it landed is set aside.</summary>
internal sealed class StrandRestart(PullWork work, Strand strand, string why) : Exception(why)
{
    public PullWork Work => work;

    public Strand Strand => strand;
}
