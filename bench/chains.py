#!/usr/bin/env python3
"""Runs one incremental job again and again, and compares its last runs with the first ones of a job that has just begun.

Every run brings a few rows, so its state is made of all runs before it: they are folded, or each run would open them all.
Old and young runs take turns, so that whatever else the machine does slows both down.
"""
import argparse
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time
import urllib.request

HERE = os.path.dirname(os.path.abspath(__file__))
ROOT = os.path.dirname(HERE)
APP = os.path.join(ROOT, "artifacts", "app", "cursiva")
STAND_IN = os.path.join(ROOT, "artifacts", "app", "stand-in", "cursiva-stand-in")
WINDOW = 20

JOB = """cursiva: 1
identities:
  app: {{ grant: client_credentials, token-endpoint: {address}/oauth2/token, client-id: brackwater-demo, secret: env:BRACKWATER_SECRET }}
apis:
  exchange: {{ base: {address}/v2, identity: app }}
pulls:
  vehicles:
    get: /vehicles/changes
    rows: /items
    paging: {{ next-link: /links/next, changes: /links/changes }}
    key: /id
    deleted-when: {{ at: /state, is: removed }}
reports:
  all: {{ sql: select * from vehicles order by id, write: all.csv }}
"""


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=400)
    options = parser.parse_args()
    subprocess.run([os.path.join(ROOT, "build")], check=True)
    work = tempfile.mkdtemp(prefix="cursiva-chains-")
    server = subprocess.Popen([STAND_IN], stdout=subprocess.PIPE, text=True)
    try:
        address = server.stdout.readline().removeprefix("listening on ").strip()
        job = os.path.join(work, "fleet.cursiva.yaml")
        with open(job, "w", encoding="utf-8") as text:
            text.write(JOB.format(address=address))
        old, young = os.path.join(work, "old"), os.path.join(work, "young")
        for _ in range(options.runs - WINDOW):
            once(address, old, job)
        once(address, young, job)
        turns = [(once(address, young, job), once(address, old, job)) for _ in range(WINDOW)]
        first, last = (statistics.median(times) for times in zip(*turns))
        files = sum(len(names) for _, _, names in os.walk(old))
        print(f"| {options.runs:,} runs | first {first:.3f} s | last {last:.3f} s | {last / first:.2f} x | {files} files |")
        sys.exit(0 if last < 1.2 * first else "the last runs take 1.2 times what the first ones took")
    finally:
        server.terminate()
        server.wait()
        shutil.rmtree(work)


def once(address, state, job):
    """Runs the job on a new day, and returns its wall time in seconds."""
    urllib.request.urlopen(urllib.request.Request(address + "/world/next-day", method="POST")).close()
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=state)
    begun = time.monotonic()
    subprocess.run([APP, "run", job], env=environment, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.monotonic() - begun


if __name__ == "__main__":
    main()
