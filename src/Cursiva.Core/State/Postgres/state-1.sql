create schema cursiva;

comment on schema cursiva is 'State that several machines share: documents, limits, leases.';

create table cursiva.version (version integer not null);

create table cursiva.documents (
    kind text collate "C" not null,
    key text collate "C" not null,
    document bytea not null,
    primary key (kind, key));

create table cursiva.leases (
    name text collate "C" primary key,
    holder text not null,
    token uuid not null,
    fence bigint not null,
    until timestamptz not null);

-- Times of slots are microseconds since 1970-01-01 00:00 UTC, by this server's clock.
create table cursiva.slots (
    bucket text collate "C" not null,
    place integer not null,
    free_at bigint not null,
    in_flight boolean not null,
    primary key (bucket, place));

create index slots_by_time on cursiva.slots (bucket, free_at);

create table cursiva.pauses (client text collate "C" primary key, until timestamptz not null);

-- What is true for a moment: a crash may lose it.
create unlogged table cursiva.notes (name text collate "C" primary key, note bytea not null);

create function cursiva.now_us() returns bigint language sql volatile as
$$ select (extract(epoch from clock_timestamp()) * 1000000)::bigint $$;

-- Takes up to `most` permits, each with a slot of every window. A row for each slot, and one that says how it ended: its permit is null,
-- its place is that of the window that was full (from 1; null for none), and its leaves_in how long to wait.
-- Before that, slots are given back; one that another request holds by now stays with it.
create function cursiva.take_slots(
    buckets text[], counts integer[], lengths bigint[], aheads bigint[], most integer, hold bigint,
    back_buckets text[], back_places integer[], back_holds bigint[], back_free_in bigint[])
returns table (permit integer, place integer, held bigint, leaves_in bigint, latest integer) language plpgsql as
$$
#variable_conflict use_column
declare
    now_us bigint;
    windows integer := coalesce(array_length(buckets, 1), 0);
    taken integer := 0;
    full_window integer;
    free_places integer[];
    free_times bigint[];
    found_place integer;
    found_time bigint;
    unused integer;
    leaves bigint;
    last_window integer;
    earliest bigint;
begin
    -- Whoever shares a window takes turns, always in one order; the turn ends with this statement's transaction.
    perform pg_advisory_xact_lock(hashtextextended(b, 7)) from (select distinct b from unnest(buckets || back_buckets) b order by b) each_once;
    now_us := cursiva.now_us();
    update cursiva.slots s set free_at = now_us + g.free_in, in_flight = false
        from unnest(back_buckets, back_places, back_holds, back_free_in) g (bucket, place, hold, free_in)
        where s.bucket = g.bucket and s.place = g.place and s.in_flight and s.free_at = g.hold;
    while taken < most and full_window is null loop
        free_places := array[]::integer[];
        free_times := array[]::bigint[];
        for w in 1 .. windows loop
            -- A slot in flight is free when its holder gave it back, or is not heard of again; only others are taken ahead.
            select s.place, greatest(s.free_at, now_us) into found_place, found_time from cursiva.slots s
                where s.bucket = buckets[w] and s.place < counts[w] and s.free_at <= now_us + aheads[w] and (s.free_at <= now_us or not s.in_flight)
                order by s.free_at limit 1;
            if found_time is null or found_time > now_us then
                select coalesce(max(s.place) + 1, 0) into unused from cursiva.slots s where s.bucket = buckets[w];
                if unused < counts[w] then
                    found_place := unused;
                    found_time := now_us;
                end if;
            end if;
            if found_time is null then
                full_window := w;
                exit;
            end if;
            free_places[w] := found_place;
            free_times[w] := found_time;
        end loop;
        exit when full_window is not null;
        leaves := now_us;
        last_window := null;
        for w in 1 .. windows loop
            if last_window is null or free_times[w] > leaves then
                last_window := w;
            end if;
            leaves := greatest(leaves, free_times[w]);
        end loop;
        for w in 1 .. windows loop
            insert into cursiva.slots as s (bucket, place, free_at, in_flight)
                values (buckets[w], free_places[w], leaves + hold + lengths[w], true)
                on conflict (bucket, place) do update set free_at = excluded.free_at, in_flight = true;
            permit := taken;
            place := free_places[w];
            held := leaves + hold + lengths[w];
            leaves_in := leaves - now_us;
            latest := last_window;
            return next;
        end loop;
        taken := taken + 1;
    end loop;
    permit := null;
    held := null;
    latest := null;
    place := case when taken = 0 then full_window end;
    leaves_in := 0;
    if taken = 0 and full_window is not null then
        select s.free_at into earliest from cursiva.slots s
            where s.bucket = buckets[full_window] and s.place < counts[full_window] and not s.in_flight order by s.free_at limit 1;
        leaves_in := case when earliest is null then 20000 else earliest - aheads[full_window] - cursiva.now_us() end;
    end if;
    return next;
end
$$;

-- Holds slots for longer. A row for each that was still held.
create function cursiva.hold_slots(buckets text[], places integer[], holds bigint[], hold bigint)
returns table (nth integer, held bigint) language sql volatile as
$$
    with wanted as (
        select g.bucket, g.place, g.hold, g.nth, cursiva.now_us() + $4 as until
        from unnest(buckets, places, holds) with ordinality g (bucket, place, hold, nth))
    update cursiva.slots s set free_at = w.until from wanted w
        where s.bucket = w.bucket and s.place = w.place and s.in_flight and s.free_at = w.hold
        returning w.nth::integer, s.free_at
$$;

create table cursiva.landings (id bigint generated always as identity primary key, name text collate "C" not null unique);

-- Groups of changes that were committed, by their writer: one that is sent again after a broken connection counts once.
create table cursiva.groups (
    landing bigint not null references cursiva.landings on delete cascade,
    writer uuid not null,
    nth bigint not null,
    primary key (landing, writer));

create table cursiva.strands (
    landing bigint not null references cursiva.landings on delete cascade,
    pull text collate "C" not null,
    strand text collate "C" not null,
    "values" text not null,
    carried text not null,
    way text not null,
    status integer,
    because text,
    said text,
    request text,
    primary key (landing, pull, strand));

-- Rows of a page are JSON lines, packed with Zstandard (RFC 8878).
create table cursiva.pages (
    landing bigint not null references cursiva.landings on delete cascade,
    pull text collate "C" not null,
    strand text collate "C" not null,
    page integer not null,
    rows integer not null,
    length integer not null,
    checksum bigint not null,
    next text,
    piece boolean not null,
    mark text,
    ended text,
    told bigint,
    etag text,
    lines bytea not null,
    primary key (landing, pull, strand, page));

alter table cursiva.pages alter column lines set storage external;

create table cursiva.files (name text collate "C" not null, nth integer not null, piece bytea not null, primary key (name, nth));

-- No two holders of a strand have the same fence, not even of one that was withdrawn and offered again.
create sequence cursiva.fences;

-- The strands of a run that several machines work on. A later holder's fence is higher: what an earlier one adds is refused.
create table cursiva.queue (
    landing bigint not null references cursiva.landings on delete cascade,
    pull text collate "C" not null,
    strand text collate "C" not null,
    anew boolean not null,
    holder uuid,
    fence bigint not null default 0,
    until timestamptz,
    result text,
    primary key (landing, pull, strand));

create index queue_open on cursiva.queue (landing, pull, strand) where result is null;
create index queue_finished on cursiva.queue (landing) where result is not null;
create index queue_held on cursiva.queue (holder) where result is null;
