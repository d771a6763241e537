namespace Cursiva.Core.Landing;

/// <summary>Committed pages are missing on disk or have other bytes than were committed.</summary>
public sealed class LandingDamagedException(string what) : Exception(what);
