#!/usr/bin/env python3
"""What leaves the machine: write-backs beside the least that their latency allows, rows into PostgreSQL beside psql, an upload and its memory.

Needs PostgreSQL on this machine; its server is started in a folder of its own and removed again.
"""
import argparse
import json
import os
import shutil
import socket
import subprocess
import tempfile
import time

HERE = os.path.dirname(os.path.abspath(__file__))
ROOT = os.path.dirname(HERE)
APP = os.path.join(ROOT, "artifacts", "app", "cursiva")
STAND_IN = os.path.join(ROOT, "artifacts", "app", "stand-in", "cursiva-stand-in")

JOB = """cursiva: 1
identities:
  app: {{ grant: client_credentials, token-endpoint: {address}/oauth2/token, client-id: brackwater-demo, secret: env:BRACKWATER_SECRET }}
apis:
  exchange: {{ base: {address}/v2, identity: app, limits: {{ at-once: 64 }} }}
pulls:
  depots: {{ get: /depots, rows: /items, paging: {{ next-link: /links/next }} }}
"""


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--items", type=int, default=10_000)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--megabytes", type=int, default=1_000)
    options = parser.parse_args()
    subprocess.run([os.path.join(ROOT, "build")], check=True)
    work = tempfile.mkdtemp(prefix="cursiva-leaving-")
    os.chmod(work, 0o711)
    try:
        writes(work, options.items)
        upload(work, options.megabytes)
        table(work, options.rows)
    finally:
        shutil.rmtree(work)


def writes(work, items):
    with Cloud("--latency", "10") as address:
        job = write(work, "writes", JOB.format(address=address) + f"""writes:
  notices:
    sql: select range as id, 'Notice ' || range as title from range({items})
    key: [id]
    parallel: 16
    steps: {{ create: {{ post: /notices, body: {{ title: "{{row.title}}" }} }} }}
""")
        log = cursiva(work, "run", job, "--log", "json")[2]
        times = {line["message"].split(":")[0].split(" is ")[0] + ("!" if " is sent" in line["message"] else ""): line["time"] for line in map(json.loads, log.splitlines()) if "notices-1" in line.get("message", "")}
        took = seconds(times["notices-1!"]) - seconds(times["notices-1"])
        ideal = items * 0.010 / 16
        bare = direct(address, items)
        print(f"{items:,} write-backs at 10 ms, 16 at once, each noted twice on disk: {took:.2f} s; {took / ideal:.2f} x {ideal:.2f} s (aim 1.15), {took / bare:.2f} x a client that notes nothing ({bare:.2f} s)", flush=True)


def direct(address, items):
    """The same requests by a client that notes nothing: curl, 16 at once, which keeps its connections."""
    token = json.loads(subprocess.run(["curl", "-s", "-u", "brackwater-demo:not-a-real-secret", "-d", "grant_type=client_credentials", address + "/oauth2/token"], check=True, capture_output=True, text=True).stdout)["access_token"]
    with tempfile.NamedTemporaryFile("w", suffix=".curl", delete=False) as config:
        for item in range(items):
            config.write(("next\n" if item else "") + f'url = "{address}/v2/notices"\nheader = "Authorization: Bearer {token}"\nheader = "Content-Type: application/json"\ndata = "{{\\"title\\":\\"Bare {item}\\"}}"\noutput = "/dev/null"\n')
    start = time.monotonic()
    subprocess.run(["curl", "-s", "--no-progress-meter", "--parallel", "--parallel-max", "16", "--config", config.name], check=True)
    took = time.monotonic() - start
    os.remove(config.name)
    return took


def upload(work, megabytes):
    with Cloud() as address:
        job = write(work, "upload", JOB.format(address=address) + f"""reports:
  big: {{ sql: "select repeat('x', 999) as x from range({megabytes * 1000})", write: big.csv }}
deliveries:
  drawer: {{ report: big, upload: {{ steps: {{ put: {{ put: '/drawer/{{file.name}}', file: body }} }} }} }}
""")
        cursiva(work, "run", job, "--no-deliveries")
        wall, peak, _ = cursiva(work, "deliver", job)
        size = os.path.getsize(os.path.join(work, "reports", "big.csv"))
        print(f"an upload of {size / 1e6:,.0f} MB: {wall:.1f} s, peak {peak:.0f} MB (aim 80)", flush=True)


def table(work, rows):
    with Postgres(work) as port, Cloud() as address:
        columns = "'R-' || range as reference, range % 12 as depot, (range * 1.25)::decimal(18, 2) as weight, 'goods of ' || range as goods"
        for name, sql in (("first", columns), ("same", columns), ("changed", columns.replace("1.25", "1.5"))):
            job = write(work, "table", JOB.format(address=address) + f"""deliveries:
  rows: {{ table: {{ server: '127.0.0.1:{port}', security: none, database: postgres, user: exporter, table: late, rows: merge, key: [reference], sql: "select {sql} from range({rows})" }} }}
""")
            cursiva(work, "run", job, "--new", "--no-deliveries")
            wall = cursiva(work, "deliver", job)[0]
            if name == "first":
                psql(port, "copy late to '" + work + "/rows.csv' (format csv)")
                psql(port, "create table beside (like late including all)")
                start = time.monotonic()
                psql(port, f"\\copy beside from '{work}/rows.csv' csv")
                copied = time.monotonic() - start
                print(f"psql \\copy of {rows:,} rows into a table with their key: {copied:.1f} s")
            print(f"merge of {rows:,} rows, {name}: {wall:.1f} s, {wall / copied:.2f} x (aim 1.5)", flush=True)


def psql(port, sql):
    subprocess.run(["psql", "-X", "-q", "-v", "ON_ERROR_STOP=1", "-h", "127.0.0.1", "-p", str(port), "-U", "exporter", "postgres", "-c", sql], check=True)


def cursiva(work, *arguments):
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=os.path.join(work, "state"))
    start = time.monotonic()
    pid = os.posix_spawn(APP, [APP, *arguments], environment, file_actions=[(os.POSIX_SPAWN_OPEN, 2, os.path.join(work, "log"), os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), (os.POSIX_SPAWN_OPEN, 1, os.devnull, os.O_WRONLY, 0)])
    _, status, usage = os.wait4(pid, 0)
    wall = time.monotonic() - start
    with open(os.path.join(work, "log"), encoding="utf-8") as log:
        text = log.read()
    if os.waitstatus_to_exitcode(status) != 0:
        raise SystemExit(text[-2000:])
    return wall, usage.ru_maxrss / 1000, text


def write(work, name, text):
    path = os.path.join(work, name + ".cursiva.yaml")
    with open(path, "w", encoding="utf-8") as job:
        job.write(text)
    return path


def seconds(text):
    import datetime
    return datetime.datetime.fromisoformat(text).timestamp()


class Cloud:
    def __init__(self, *arguments):
        self.arguments = arguments

    def __enter__(self):
        self.server = subprocess.Popen([STAND_IN, *self.arguments], stdout=subprocess.PIPE, text=True)
        return self.server.stdout.readline().removeprefix("listening on ").strip()

    def __exit__(self, *_):
        self.server.terminate()
        self.server.wait()


class Postgres:
    def __init__(self, work):
        self.data = os.path.join(work, "database")
        root = "/usr/lib/postgresql"
        self.programs = os.path.join(root, sorted(os.listdir(root))[-1], "bin")

    def __enter__(self):
        with socket.socket() as free:
            free.bind(("127.0.0.1", 0))
            port = free.getsockname()[1]
        os.mkdir(self.data)
        if os.geteuid() == 0:
            shutil.chown(self.data, "postgres")
            shutil.chown(os.path.dirname(self.data), "postgres")
        self.run("initdb", "-D", self.data, "-U", "exporter", "-A", "trust", "-E", "UTF8", "--locale=C")
        self.run("pg_ctl", "-D", self.data, "-w", "-l", self.data + "/log", "-o", f"-p {port} -k {self.data} -c listen_addresses=127.0.0.1", "start")
        return port

    def __exit__(self, *_):
        self.run("pg_ctl", "-D", self.data, "-m", "immediate", "stop")

    def run(self, program, *arguments):
        command = [os.path.join(self.programs, program), *arguments]
        subprocess.run((["runuser", "-u", "postgres", "--"] if os.geteuid() == 0 else []) + command, check=True, stdout=subprocess.DEVNULL, cwd=self.data)


if __name__ == "__main__":
    main()
