namespace Cursiva.Core.Refusals;

/// <summary>The many ways in which servers say one thing, for <see cref="Saying"/>.</summary>
internal static class Synonyms
{
    private static readonly (string Name, string Ways)[] s_all =
    [
        (
            "<ended>",
            "(expired|expir(es|y)|lapsed|ended|ran out|run out|past (its|the|their)( \\w+){1,2}|(is |lies )?in the past|reached (its|the)( \\w+){0,2} end|(validity |life )?end (was |is )?(reached|passed)|ran its course|used up its time|no longer (valid|good|accepted|usable)|out ?dated|out of date|timed out|too old|stale|was (only )?valid (until|till)|(validity|lifetime|life)( (is|was|has))? (over|ended|exhausted|gone|used up)|is over|discarded)"),
        (
            "<missing>",
            "(missing|absent|required|needed|mandatory|empty|lacking|not (sent|given|provided|filled in|present|supplied|found|included|specified|set|passed|there)|must (be|include|contain|carry)|has to be|have to be|was expected|none)"),
        (
            "<unknown>",
            "(not (found|known|seen|held|registered|recogni[sz]ed|exist|listed|one of ours|set up|mapped|configured|defined)|(does|do|did) not exist|unknown|unrecogni[sz]ed|unregistered|no match|(could|can) not (be )?(found|locate|located|find|identified|resolved)|no longer exists|nonexistent|non existent|is (wrong|invalid|incorrect))"),
        (
            "<off>",
            "(disabled|deactivated|inactive|suspended|blocked|switched off|turned off|on hold|not active|in( the)? state( of)? (paused|disabled|inactive|suspended|closed)|not in an active state|not enabled|not activated|banned|locked|frozen|archived|closed|removed|revoked|paused|withdrawn|retired|shut( down)?|decommissioned)"),
        (
            "<refused>",
            "(not (allowed|permitted|authori[sz]ed|served|ticked|supported|accepted|enabled|available|possible|understood|valid|set up)|refused|rejected|blocks?|blocked|denied|forbidden|prohibited|disallowed|restricted|stopped|may not( be)?|can not( be)?|unsupported|disabled|switched off|turned off)"),
        (
            "<wrong>",
            "(wrong|invalid|incorrect|bad|mismatch(ed)?|error|rejected|not (correct|valid|right|accepted|recogni[sz]ed|the one)|(does|do|did) not (match|fit|agree|verify|check out|pass|work)|fails?|differs?|negative|unequal|(check|verification|validation|comparison) (failed|failure|error)|failed|failure)"),
        ("<client>", "(client|app|application|integration|consumer|service principal|software)"),
        ("<person>", "(user|account|login|person|member|owner|profile|identity|sign in)"),
        ("<tenant>", "(tenant|realm|organi[sz]ation|directory|domain|environment|company|workspace|customer|account group)"),
        ("<admin>", "((super )?admin(istrator)?s?|owner|resource owner)"),
        ("<approve>", "(approv\\w*|authori[sz]e[ds]?|agree[ds]?( to)?|grant(ed)?|allow(ed)?|consent\\w*|accept(ed)?)"),
    ];

    /// <summary>A pattern with the names replaced by what they stand for.</summary>
    public static string In(string pattern) => s_all.Aggregate(pattern, (text, one) => text.Replace(one.Name, one.Ways));
}
