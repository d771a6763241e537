#!/usr/bin/env python3
"""Measures the reports: from one landing to every format, beside the plain C# loop that fetches the same rows into a CSV file.

The rows are landed once; then each format is written by a process of its own, `cursiva report`, which makes no request. With
--large the CSV and Parquet files are written again from ten times as many rows, to compare the peak memory.
"""
import argparse
import os
import shutil
import statistics
import subprocess
import sys
import tempfile

from bench import APP, CLIENT, HERE, ROOT, STAND_IN, measure

JOB = """
cursiva: 1
inputs: {{ cloud: "http://127.0.0.1:8100" }}
include: [{shared}]
memory: {memory}
pulls:
  consignments:
    get: /consignments
    rows: /items
    paging: {{ cursor: /page/cursor, parameter: cursor }}
reports:
{report}
"""

TABLE = "  all: {{ sql: select * from consignments, write: all.{} }}"
PAGE = """
  summary:
    parts:
      count: { as: figure, sql: select count(*) from consignments }
      late: { as: figure, sql: select count(*) from consignments where status = 'late' }
      by-depot: { as: bar, sql: "select depot, count(*) as n from consignments group by depot order by n desc, depot" }
      rows: { sql: select * from consignments limit 50000 }
    write: summary.html
"""


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--large", type=int, default=0, help="also write CSV and Parquet from so many rows")
    parser.add_argument("--memory", type=int, default=1024, help="memory: of the job, in MiB")
    options = parser.parse_args()
    subprocess.run([os.path.join(ROOT, "build")], check=True)
    subprocess.run(["dotnet", "publish", os.path.join(HERE, "Cursiva.Bench"), "-c", "Release", "-o", os.path.dirname(CLIENT), "-v", "q", "--nologo"], check=True, stdout=subprocess.DEVNULL)
    work = tempfile.mkdtemp(prefix="cursiva-bench-")
    try:
        formats(options, work)
        if options.large:
            large(options, work)
        starts(options)
    finally:
        shutil.rmtree(work)


def serve(rows):
    server = subprocess.Popen([STAND_IN, "--rows", str(rows), "--page-size", "1000", *(["--prerender"] if rows <= 1_000_000 else [])], stdout=subprocess.PIPE, text=True)
    return server, server.stdout.readline().removeprefix("listening on ").strip()


def land(work, address, memory, environment):
    write(work, memory, TABLE.format("csv"))
    measure([APP, "run", f"{work}/job.cursiva.yaml", "--new", "--input", f"cloud={address}"], environment)


def write(work, memory, report):
    with open(f"{work}/job.cursiva.yaml", "w") as file:
        file.write(JOB.format(shared=os.path.join(HERE, "bench.shared.yaml"), memory=memory, report=report))


def again(work, memory, report, environment):
    write(work, memory, report)
    return measure([APP, "report", f"{work}/job.cursiva.yaml"], environment)


def formats(options, work):
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=f"{work}/state")
    reports = {"CSV": (TABLE.format("csv"), 0.45), "Parquet": (TABLE.format("parquet"), 0.4), "JSON lines": (TABLE.format("jsonl"), None), "SQLite": (TABLE.format("sqlite"), None),
               "XLSX": (TABLE.format("xlsx"), 2), "HTML page": (PAGE, 1)}
    server, address = serve(options.rows)
    results = {name: [] for name in ["loop", *reports]}
    try:
        land(work, address, options.memory, environment)
        for _ in range(options.rounds):
            results["loop"].append(measure([CLIENT, "loop", address, f"{work}/loop.csv"], environment))
            for name, (report, _) in reports.items():
                results[name].append(again(work, options.memory, report, environment))
    finally:
        server.terminate()
        server.wait()
    medians = {name: [statistics.median(run[i] for run in runs) for i in range(3)] for name, runs in results.items()}
    print(f"{options.rows:,} consignments landed, median of {options.rounds} rounds, memory: {options.memory}\n")
    print("| | wall s | CPU s | peak MB | x plain C# loop | aim |\n|---|---:|---:|---:|---:|---|")
    print("| plain C# loop to CSV, requests and all | {:.2f} | {:.2f} | {:.0f} | 1 | |".format(*medians["loop"]))
    for name, (_, aim) in reports.items():
        wall, cpu, peak = medians[name]
        ratio = wall / medians["loop"][0]
        print(f"| {name} | {wall:.2f} | {cpu:.2f} | {peak:.0f} | {ratio:.2f} | {f'{aim} (met)' if aim and ratio <= aim else f'{aim} (not met)' if aim else ''} |")
    print()


def large(options, work):
    peaks = {}
    for rows in (options.rows, options.large):
        environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=f"{work}/state-{rows}")
        server, address = serve(rows)
        try:
            land(work, address, options.memory, environment)
        finally:
            server.terminate()
            server.wait()
        for suffix in ("csv", "parquet"):
            runs = [again(work, options.memory, TABLE.format(suffix), environment) for _ in range(options.rounds)]
            wall, _, peak = (statistics.median(run[i] for run in runs) for i in range(3))
            peaks[rows, suffix] = peak
            print(f"{rows:,} rows to {suffix}: {wall:.1f} s, peak {peak:.0f} MB")
    for suffix in ("csv", "parquet"):
        small, big = peaks[options.rows, suffix], peaks[options.large, suffix]
        print(f"- {suffix}: peak memory is {big / small:.2f} x that of {options.rows:,} rows (aim 1.10); memory: {options.memory} + 512 is {'kept' if big <= (options.memory + 512) * 1.048576 else 'not kept'}")
    print()


def starts(options):
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret")
    demo = os.path.join(ROOT, "examples", "demo", "consignments.cursiva.yaml")
    commands = {"an empty .NET program": [CLIENT, "nothing"], "cursiva --help": [APP, "--help"], "cursiva check of the demo": [APP, "check", demo]}
    times = {name: [] for name in commands}
    for _ in range(10):
        for name, command in commands.items():
            times[name].append(measure(command, environment)[0])
    medians = {name: statistics.median(all) for name, all in times.items()}
    empty = medians["an empty .NET program"]
    for (name, median), aim in zip(medians.items(), (None, 2, 5)):
        print(f"- {name}: {median * 1000:.0f} ms" + (f", {median / empty:.2f} x the empty program (aim {aim}, {'met' if median / empty <= aim else 'not met'})" if aim else ""))


if __name__ == "__main__":
    main()
