#!/usr/bin/env python3
"""Measures several machines that share a state in PostgreSQL: how far they speed a run up, what they leave of a limit, and what becomes of
runs in which machines are killed, stopped, cut off, and the database crashes.

Machines are processes with a state folder of their own. The database is PostgreSQL, started in a temporary folder.
"""
import argparse
import glob
import hashlib
import json
import os
import random
import shutil
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
import urllib.request

from strands import APP, Cloud, HERE, ROOT

KEY = "MDEyMzQ1Njc4OTAxMjM0NTY3ODkwMTIzNDU2Nzg5MDE="
FAKETIME = "/usr/lib/x86_64-linux-gnu/faketime/libfaketime.so.1"

JOB = """
cursiva: 1
name: {name}
out: {out}
include: [services.yaml]
pulls:
  tenants: {{ get: '/tenants?size=1000', rows: /items, paging: {{ next-link: /next }} }}
  scans:
    per: tenants
    carry: {{ tenant: /id }}
    get: {scans}
    rows: /items
    paging: {{ next-link: /next }}
    parallel: {parallel}
    skip-when: [{{ status: 403 }}]
{pulls}reports:
  all: {{ sql: select * from scans, write: [all.csv] }}
{more}
"""


class Database:
    """A PostgreSQL server of its own."""

    def __init__(self, work):
        self.folder = os.path.join(work, "database")
        self.programs = sorted(glob.glob("/usr/lib/postgresql/*/bin"))[-1]
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            self.port = free.getsockname()[1]
        os.makedirs(self.folder)
        os.chmod(work, 0o755)
        if os.geteuid() == 0:
            shutil.chown(self.folder, "postgres")
        self.run("initdb", "-D", self.data, "-U", "admin", "-A", "trust", "--no-sync", "-E", "UTF8", "--locale=C")
        with open(os.path.join(self.data, "postgresql.conf"), "a", encoding="utf-8") as file:
            file.write(f"port = {self.port}\nunix_socket_directories = '{self.folder}'\nlisten_addresses = '127.0.0.1'\nmax_connections = 200\ntrack_functions = pl\n")
        self.start()
        self.ask("create database cursiva", "postgres")
        subprocess.run([APP, "state", "init", "--state", self.address("init")], check=True, stdout=subprocess.DEVNULL, env=dict(os.environ, HOME=work))

    @property
    def data(self):
        return os.path.join(self.folder, "data")

    def run(self, program, *arguments):
        command = [os.path.join(self.programs, program), *arguments]
        if os.geteuid() == 0:
            command = ["runuser", "-u", "postgres", "--", *command]
        subprocess.run(command, check=True, stdout=subprocess.DEVNULL, cwd=self.folder)

    def start(self):
        self.run("pg_ctl", "-s", "-D", self.data, "-w", "-l", os.path.join(self.data, "log"), "start")

    def crash(self):
        self.run("pg_ctl", "-s", "-D", self.data, "-m", "immediate", "stop")

    def ask(self, sql, name="cursiva"):
        return subprocess.run(["psql", "-X", "-q", "-A", "-t", "-h", self.folder, "-p", str(self.port), "-U", "admin", name, "-c", sql], check=True, capture_output=True, text=True).stdout.strip()

    def address(self, folder, lease=30, port=None):
        return f"postgresql://admin@127.0.0.1:{port or self.port}/cursiva?security=none&lease={lease}s&folder={folder}"

    def __enter__(self):
        return self

    def __exit__(self, *_):
        self.crash()


class Way:
    """What stands between one machine and the database: it lets everything through, until it stalls, or cuts all connections."""

    def __init__(self, port):
        self.to = port
        self.open = threading.Event()
        self.open.set()
        self.sockets = set()
        self.listener = socket.create_server(("127.0.0.1", 0), backlog=64)
        self.port = self.listener.getsockname()[1]
        threading.Thread(target=self.accept, daemon=True).start()

    def accept(self):
        while True:
            here, _ = self.listener.accept()
            threading.Thread(target=self.connect, args=(here,), daemon=True).start()

    def connect(self, here):
        self.open.wait()
        try:
            there = socket.create_connection(("127.0.0.1", self.to))
        except OSError:
            here.close()
            return
        self.sockets |= {here, there}
        for source, target in ((here, there), (there, here)):
            threading.Thread(target=self.carry, args=(source, target), daemon=True).start()

    def carry(self, source, target):
        try:
            while data := source.recv(65536):
                self.open.wait()
                target.sendall(data)
        except OSError:
            pass
        for end in (source, target):
            self.sockets.discard(end)
            try:
                end.shutdown(socket.SHUT_RDWR)
            except OSError:
                pass
            end.close()

    def cut(self):
        for end in list(self.sockets):
            try:
                end.shutdown(socket.SHUT_RDWR)
            except OSError:
                pass

    def stall(self, seconds):
        self.open.clear()
        threading.Timer(seconds, self.open.set).start()


def write_job(work, cloud, name, parallel, limit="", more="", family=None, pulls="", scans="/tenants/{tenants.id}/scans"):
    with open(os.path.join(HERE, "bench.shared.yaml"), encoding="utf-8") as file:
        services = file.read().replace("http://127.0.0.1:8100", cloud.address)
    if family is not None:
        # Signed in by a refresh token that each use replaces; every family is an identity of its own.
        services = services.replace("bench", f"family-{family}").replace("grant: client_credentials", "grant: refresh_token\n    refresh-token: env:SEED")
        seed = urllib.request.Request(cloud.address + f"/oauth2/refresh-tokens?person=person-{family}", method="POST")
        with urllib.request.urlopen(seed) as answer:
            os.environ["SEED"] = answer.read().decode()
    with open(os.path.join(work, "services.yaml"), "w", encoding="utf-8") as file:
        file.write(services + limit)
    path = os.path.join(work, f"{name}.cursiva.yaml")
    with open(path, "w", encoding="utf-8") as file:
        file.write(JOB.format(name=name, out=os.path.join(work, f"reports-{name}"), parallel=parallel, more=more, pulls=pulls, scans=f"'{scans}'"))
    return path


def start(job, work, database, machine, *options, lease=30, shift=None, log=None, port=None):
    environment = dict(
        os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STORE_KEY=KEY,
        CURSIVA_STATE=database.address(os.path.join(work, machine), lease, port) if database else os.path.join(work, machine))
    if shift is not None:
        # The clock of waits is left alone: with its fix for them, libfaketime takes a fifth of a core from each process and delays it.
        environment.update(LD_PRELOAD=FAKETIME, FAKETIME=f"{shift:+d}", FAKETIME_DONT_FAKE_MONOTONIC="1", FAKETIME_FORCE_MONOTONIC_FIX="0")
    output = open(log, "a", encoding="utf-8") if log else subprocess.DEVNULL
    return subprocess.Popen([APP, "run", job, *options], env=environment, stdout=output, stderr=subprocess.STDOUT if log else subprocess.DEVNULL)


def digest(work, name):
    found = hashlib.sha256()
    for path in sorted(glob.glob(os.path.join(work, f"reports-{name}", "*.csv"))):
        with open(path, "rb") as file:
            found.update(file.read())
    return found.hexdigest()


def speed(work, strands, latency):
    """The same run on 1, 2, 4 and 8 machines."""
    took = {}
    with Cloud("--tenants", str(strands), "--latency", str(latency)) as cloud, Database(work) as database:
        for machines in (1, 2, 4, 8):
            name = f"speed-{machines}"
            job = write_job(work, cloud, name, 8)
            begun = time.monotonic()
            processes = [start(job, work, database, f"{name}-m{i}", "--together") for i in range(machines)]
            codes = [process.wait() for process in processes]
            took[machines] = time.monotonic() - begun
            pulls = float(database.ask(f"select document from (select convert_from(document, 'UTF8')::json -> 'figures' -> 'stages-s' ->> 'pulls' document from cursiva.documents where kind = 'run' and key like '{name}/%') d"))
            print(f"speed: {strands} strands at {latency} ms on {machines} machines: {took[machines]:.1f} s, its pulls {pulls:.1f} s (exit codes {codes}); {took[1] / took[machines] / machines:.2f} of linear", flush=True)
    return took


def limit(work, seconds):
    """A limit of 50 per second for two jobs on four machines, clocks up to an hour apart."""
    with Cloud("--tenants", "2000", "--latency", "5", "--jitter", "295", "--limit", "50/1") as cloud, Database(work) as database:
        jobs = [write_job(work, cloud, f"limit-{i}", 16, "    limits: { at-most: 50 per second }\n") for i in range(2)]
        shifts = [0, 3600, -3600, 1800] if os.path.exists(FAKETIME) else [None] * 4
        processes = [start(job, work, database, f"limit-m{i}", "--together", shift=shift) for job in jobs for i, shift in enumerate(shifts)]
        while cloud.statistics()["requests"] < 200:
            time.sleep(0.05)
        before, begun = cloud.statistics(), time.monotonic()
        time.sleep(seconds)
        after, took = cloud.statistics(), time.monotonic() - begun
        asked = database.ask("select calls || ' times, ' || round((total_time / calls)::numeric, 2) || ' ms each' from pg_stat_user_functions where funcname = 'take_slots'")
        for process in processes:
            process.send_signal(signal.SIGTERM)
        for process in processes:
            process.wait()
    left = 50 * took / (1 + 0.1525)
    requests = after["requests"] - before["requests"]
    print(f"limit: {requests} requests in {took:.1f} s by 8 processes on 4 machines, clocks apart: {shifts}; promise 2 leaves {left:.0f}")
    print(f"- {requests / left * 100:.1f} % of what is left; the aim is at least 95 % ({'met' if requests / left >= 0.95 else 'not met'})")
    print(f"- the database was asked for slots {asked}")
    print(f"- {after['breaches']} breaches in any sliding window; the aim is 0 ({'met' if after['breaches'] == 0 else 'not met'})")


def pull(work, rows):
    """Rows landed in the database beside rows landed on this machine."""
    took = {}
    with Cloud("--rows", str(rows), "--page-size", "1000", "--prerender") as cloud, Database(work) as database:
        for name, where in (("warm", None), ("local", None), ("shared", database)):
            with open(os.path.join(HERE, "bench.shared.yaml"), encoding="utf-8") as file:
                services = file.read().replace("http://127.0.0.1:8100", cloud.address)
            job = os.path.join(work, f"pull-{name}.cursiva.yaml")
            with open(os.path.join(work, "services.yaml"), "w", encoding="utf-8") as file:
                file.write(services)
            with open(job, "w", encoding="utf-8") as file:
                file.write(f"cursiva: 1\nname: pull-{name}\ninclude: [services.yaml]\npulls: {{ consignments: {{ get: /consignments, rows: /items, paging: {{ next-link: /links/next }} }} }}\n")
            begun = time.monotonic()
            if start(job, work, where, f"pull-{name}").wait() != 0:
                raise SystemExit(f"pull-{name} failed")
            took[name] = time.monotonic() - begun
    print(f"pull: {rows} rows landed here in {took['local']:.2f} s, in the database as well in {took['shared']:.2f} s")
    print(f"- {took['shared'] / took['local']:.2f} x; the aim is at most 3 ({'met' if took['shared'] <= 3 * took['local'] else 'not met'})")


def strands(work, counts):
    """What a strand costs, whatever their number."""
    with Database(work) as database:
        for count in counts:
            with Cloud("--tenants", str(count)) as cloud:
                name = f"strands-{count}"
                job = write_job(work, cloud, name, 32, scans="/tenants/{tenants.id}/scans?size=50")
                begun = time.monotonic()
                if start(job, work, database, name, "--together").wait() != 0:
                    raise SystemExit(f"{name} failed")
                took = time.monotonic() - begun
                print(f"strands: {count} in {took:.1f} s, {took / count * 1000:.2f} ms each", flush=True)


def faults(work, wanted, seed, lease=3):
    """Runs of four machines with faults; each has to give what one machine gives, deliver it once, and break no limit."""
    dice = random.Random(seed)
    done, runs, wrong, breaches, twice, families = 0, 0, 0, 0, 0, 0
    kinds = {}
    with Cloud("--tenants", "120", "--latency", "40", "--limit", "200/1", "--token-lifetime", "2", "--rows", "3000", "--page-size", "25") as cloud, Database(work) as database:
        limits = "    limits: { at-most: 200 per second }\n"
        listing = "  listing: { get: '/by/page?tell=pages', rows: /items, paging: { page-number: 1, parameter: page, pages: /pages }, parallel: 3 }\n"
        more = "  listing: { sql: select * from listing, write: [listing.csv] }\ndeliveries:\n  told: { report: all, message: { address: env:CHANNEL, body: '{{\"text\": \"{run.number}\"}}' } }\n"
        os.environ["CHANNEL"] = cloud.address + "/hooks/desk-channel-0815"
        if start(write_job(work, cloud, "alone", 6, limits, more.split("deliveries:")[0], pulls=listing), work, None, "alone").wait() != 0:
            raise SystemExit("the run of one machine failed")
        expected = digest(work, "alone")
        ways = [Way(database.port) for _ in range(4)]
        while done < wanted:
            runs += 1
            name = f"faults-{runs}"
            families += 1
            job = write_job(work, cloud, name, 6, limits, more, families, listing)
            log = os.path.join(work, f"{name}.log")
            shifts = [dice.choice([None, None, 3600, -3600]) if os.path.exists(FAKETIME) else None for _ in range(4)]

            def machine(i):
                return start(job, work, database, f"{name}-m{i}", "--together", lease=lease, shift=shifts[i], log=log, port=ways[i].port)

            processes = [machine(i) for i in range(4)]
            deadline = time.monotonic() + 240
            over = False
            while not over:
                if time.monotonic() > deadline:
                    raise SystemExit(f"{name} did not end; see {log}")
                time.sleep(dice.uniform(0.3, 1.5))
                for i, process in enumerate(processes):
                    code = process.poll()
                    if code == 0:
                        over = True
                    elif code is not None:
                        if code == 4 and families_ended(cloud) > 0:
                            # A machine was killed while its exchange was on the way: the one window of the protocol. Another person signs in.
                            families += 1
                            write_job(work, cloud, name, 6, limits, more, families, listing)
                        processes[i] = machine(i)
                if over or done >= wanted:
                    continue
                i = dice.randrange(4)
                kind = dice.choice(["kill", "sleep", "leave", "database", "cut", "stall"])
                if processes[i].poll() is not None:
                    continue
                done += 1
                kinds[kind] = kinds.get(kind, 0) + 1
                if kind == "kill":
                    processes[i].kill()
                elif kind == "leave":
                    processes[i].send_signal(signal.SIGTERM)
                elif kind == "cut":
                    ways[i].cut()
                elif kind == "stall":
                    ways[i].stall(dice.uniform(0.5, lease + 2))
                elif kind == "sleep":
                    processes[i].send_signal(signal.SIGSTOP)
                    time.sleep(lease + dice.uniform(0.5, 2))
                    processes[i].send_signal(signal.SIGCONT)
                else:
                    database.crash()
                    time.sleep(dice.uniform(0, 1.5))
                    database.start()
            for process in processes:
                try:
                    process.wait(timeout=60)
                except subprocess.TimeoutExpired:
                    process.kill()
                    print(f"{name}: a machine did not end after the run was over; see {log}")
                    wrong += 1
            if digest(work, name) != expected:
                wrong += 1
                print(f"{name}: the report differs; see {log}")
            delivered = database.ask(f"select count(*) from cursiva.documents where kind = 'ledger' and key like '{name}/%'")
            if delivered != "1":
                twice += 1
                print(f"{name}: {delivered} entries in the ledger")
            print(f"faults: {done} so far, {runs} runs, {wrong} wrong", flush=True)
        breaches = cloud.statistics()["breaches"]
        said = json.loads(urllib.request.urlopen(cloud.address + "/office").read())["messages"]
        twice += max(0, len(said) - runs)
        careless = cloud.statistics()["families_ended_carelessly"]
        ended, renewals = families_ended(cloud), cloud.statistics()["renewals"]
    print(f"faults: {done} ({', '.join(f'{count} x {kind}' for kind, count in sorted(kinds.items()))}) over {runs} runs of four machines, seed {seed}")
    print(f"- {wrong} runs whose report differs from that of one machine, {breaches} breaches of the limit, {twice} deliveries too many or too few")
    print(f"- {renewals} exchanges of refresh tokens, {ended} families ended, {careless} of them outside the window of the protocol")
    print(f"- messages that the channel received: {len(said)} from {runs} runs")
    return wrong + breaches + twice + careless


def families_ended(cloud):
    return cloud.statistics()["families_ended"]


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("what", choices=["speed", "limit", "pull", "strands", "faults", "all"])
    parser.add_argument("--strands", type=int, default=2000)
    parser.add_argument("--latency", type=int, default=100)
    parser.add_argument("--seconds", type=int, default=30)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--faults", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    options = parser.parse_args()
    if APP.startswith(ROOT):
        subprocess.run([os.path.join(ROOT, "build")], check=True, stdout=subprocess.DEVNULL)
    for what in ["pull", "limit", "speed", "strands", "faults"] if options.what == "all" else [options.what]:
        work = tempfile.mkdtemp(prefix="cursiva-machines-")
        keep = False
        try:
            if what == "speed":
                speed(work, options.strands, options.latency)
            elif what == "limit":
                limit(work, options.seconds)
            elif what == "pull":
                pull(work, options.rows)
            elif what == "strands":
                strands(work, [1000, 10_000, 100_000])
            else:
                keep = faults(work, options.faults, options.seed) > 0
        finally:
            if not keep:
                shutil.rmtree(work, ignore_errors=True)


if __name__ == "__main__":
    sys.exit(main())
