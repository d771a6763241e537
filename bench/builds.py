#!/usr/bin/env python3
"""Runs the same jobs by two builds of Cursiva in turn, on one machine with a state of its own: is one slower than the other?

    bench/builds.py BEFORE NOW      each the path of a program; an older one is built in a worktree: git worktree add DIR COMMIT
"""
import argparse
import os
import shutil
import statistics
import subprocess
import tempfile
import time

from machines import KEY, write_job
from strands import Cloud

PAGES = """cursiva: 1
name: pages
include: [services-pages.yaml]
pulls: { consignments: { get: /consignments, rows: /items, paging: { next-link: /links/next } } }
"""


def write_jobs(work, cloud):
    """A listing of many rows, many strands, and the same strands under a limit that is never reached; each with services of its own."""
    jobs = {}
    for kind, limit in (("strands", ""), ("limited", "    limits: { at-most: 100000 per second }\n"), ("pages", "")):
        jobs[kind] = write_job(work, cloud, kind, 16, limit)
        os.rename(os.path.join(work, "services.yaml"), os.path.join(work, f"services-{kind}.yaml"))
        with open(jobs[kind], encoding="utf-8") as file:
            text = file.read().replace("services.yaml", f"services-{kind}.yaml")
        with open(jobs[kind], "w", encoding="utf-8") as file:
            file.write(PAGES if kind == "pages" else text)
    return jobs


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("before")
    parser.add_argument("now")
    parser.add_argument("--rounds", type=int, default=6)
    parser.add_argument("--rows", type=int, default=1_000_000)
    options = parser.parse_args()
    builds = {"before": options.before, "now": options.now}
    took = {}
    work = tempfile.mkdtemp(prefix="cursiva-builds-")
    try:
        with Cloud("--rows", str(options.rows), "--page-size", "1000", "--prerender", "--tenants", "1500") as cloud:
            for kind, job in write_jobs(work, cloud).items():
                # The first round warms up and does not count.
                for nth in range(options.rounds + 1):
                    for build in ("before", "now") if nth % 2 else ("now", "before"):
                        state = os.path.join(work, "state")
                        environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STORE_KEY=KEY, CURSIVA_STATE=state)
                        begun = time.monotonic()
                        subprocess.run([builds[build], "run", job], check=True, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
                        if nth > 0:
                            took.setdefault((kind, build), []).append(time.monotonic() - begun)
                        shutil.rmtree(state)
                before, now = (statistics.median(took[kind, build]) for build in builds)
                print(f"{kind}: before {before:.2f} s, now {now:.2f} s: {now / before:.3f} x (medians of {options.rounds})", flush=True)
    finally:
        shutil.rmtree(work, ignore_errors=True)


if __name__ == "__main__":
    main()
