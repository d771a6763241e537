#!/usr/bin/env python3
"""What a strand costs: a job of many strands that are one page each, one of as many skips, and a stopped one that is resumed.

Prints the wall time of a strand and the peak memory, and how long a resumed run takes until its first request.
"""
import argparse
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
import urllib.request

HERE = os.path.dirname(os.path.abspath(__file__))
ROOT = os.path.dirname(HERE)
APP = os.path.join(ROOT, "artifacts", "app", "cursiva")
STAND_IN = os.path.join(ROOT, "artifacts", "app", "stand-in", "cursiva-stand-in")

JOB = """cursiva: 1
identities:
  app: {{ grant: client_credentials, token-endpoint: {address}/oauth2/token, client-id: brackwater-demo, secret: env:BRACKWATER_SECRET }}
apis:
  exchange: {{ base: {address}/v2, identity: app, limits: {{ at-once: 32 }} }}
pulls:
  p: {{ per: {{ file: ids.csv, name: one }}, parallel: 32, get: '{path}', rows: {rows}, columns: {{ id: integer }}, skip-when: [{{ status: 404 }}], allow-skips: 100%, allow-empty: true }}
reports:
  count: {{ sql: select count(*) as rows from p, write: count.csv }}
"""


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--strands", type=int, default=100_000)
    options = parser.parse_args()
    subprocess.run([os.path.join(ROOT, "build")], check=True)
    work = tempfile.mkdtemp(prefix="cursiva-many-")
    server = subprocess.Popen([STAND_IN], stdout=subprocess.PIPE, text=True)
    try:
        address = server.stdout.readline().removeprefix("listening on ").strip()
        with open(os.path.join(work, "ids.csv"), "w", encoding="utf-8") as ids:
            ids.write("id\n" + "".join(f"{number}\n" for number in range(options.strands)))
        print(f"{options.strands:,} strands\n\n| what | ms a strand | peak MB |\n|---|---:|---:|")
        for name, path, rows in (("pages", "/nothing?x={one.id}", "/items"), ("skips", "/tenants/{one.id}/scans", "/items")):
            job = write(work, name, JOB.format(address=address, path=path, rows=rows))
            wall, peak = run(work, job)
            print(f"| {name} | {wall * 1000 / options.strands:.3f} | {peak:.0f} |", flush=True)
        job = write(work, "stopped", JOB.format(address=address, path="/nothing?x={one.id}", rows="/items"))
        run(work, job, "--max-requests", str(options.strands * 82 // 100))
        print(f"\nresumed: {first_request(work, address, job):.2f} s to its first request")
    finally:
        server.terminate()
        server.wait()
        shutil.rmtree(work)


def write(work, name, text):
    path = os.path.join(work, name + ".cursiva.yaml")
    with open(path, "w", encoding="utf-8") as job:
        job.write(text)
    return path


def start(work, job, *more):
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=os.path.join(work, "state"))
    return subprocess.Popen([APP, "run", job, *more], env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE, text=True)


def run(work, job, *more):
    """Runs a job; returns its wall time in seconds and its peak memory in MB."""
    begun = time.monotonic()
    process = start(work, job, *more)
    errors = process.stderr.read()
    _, status, usage = os.wait4(process.pid, 0)
    if os.waitstatus_to_exitcode(status) not in (0, 7):
        sys.exit(errors)
    return time.monotonic() - begun, usage.ru_maxrss / 1024


def first_request(work, address, job):
    """Starts a job, and returns the seconds until the server sees a request for rows."""
    before = requests(address)
    begun = time.monotonic()
    process = start(work, job)
    while requests(address) == before and time.monotonic() - begun < 60:
        time.sleep(0.01)
    took = time.monotonic() - begun
    process.terminate()
    process.stderr.read()
    process.wait()
    return took


def requests(address):
    with urllib.request.urlopen(address + "/statistics") as answer:
        return json.load(answer)["requests"]


if __name__ == "__main__":
    main()
