namespace Cursiva.Core.Pulls;

/// <summary>A strand has to begin again from its first page; what it landed is set aside.</summary>
internal sealed class StrandRestart(PullContext context, Strand strand, string why) : Exception(why)
{
    public PullContext Context => context;

    public Strand Strand => strand;
}
