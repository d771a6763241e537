#!/usr/bin/env python3
"""Measures Cursiva side by side with what one would write by hand, against the stand-in cloud on this machine.

Every client is a process of its own; wall time, CPU time and peak memory are its own and its children's. The stand-in serves
pages that it rendered at its start, so that its work does not hide the clients'. Clients take turns, round after round, and
the median of the rounds counts.
"""
import argparse
import csv
import json
import os
import shutil
import statistics
import subprocess
import sys
import tempfile
import time

HERE = os.path.dirname(os.path.abspath(__file__))
ROOT = os.path.dirname(HERE)
APP = os.path.join(ROOT, "artifacts", "app", "cursiva")
STAND_IN = os.path.join(ROOT, "artifacts", "app", "stand-in", "cursiva-stand-in")
CLIENT = os.path.join(ROOT, "artifacts", "bench", "cursiva-bench")


def measure(command, environment):
    """Runs a command; wall and CPU time in seconds, peak memory in MB."""
    start = time.monotonic()
    process = subprocess.Popen(command, env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.PIPE)
    errors = process.stderr.read()
    _, status, usage = os.wait4(process.pid, 0)
    wall = time.monotonic() - start
    process.returncode = os.waitstatus_to_exitcode(status)
    if process.returncode != 0:
        sys.exit(f"{' '.join(command)} ended with {process.returncode}:\n{errors.decode()}")
    return wall, usage.ru_utime + usage.ru_stime, usage.ru_maxrss / 1024


def check_csv(path, rows):
    """A fast client that loses rows is not a client: every CSV must have them all."""
    with open(path, newline="", encoding="utf-8") as file:
        found = sum(1 for _ in csv.reader(file)) - 1
    if found != rows:
        sys.exit(f"{path} has {found} rows, not {rows}")


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, default=1_000_000)
    parser.add_argument("--rounds", type=int, default=3)
    parser.add_argument("--without", default="", help="letters of the clients to leave out, for instance bc")
    options = parser.parse_args()

    subprocess.run([os.path.join(ROOT, "build")], check=True)
    subprocess.run(["dotnet", "publish", os.path.join(HERE, "Cursiva.Bench"), "-c", "Release", "-o", os.path.dirname(CLIENT), "-v", "q", "--nologo"], check=True, stdout=subprocess.DEVNULL)
    work = tempfile.mkdtemp(prefix="cursiva-bench-")
    server = subprocess.Popen([STAND_IN, "--rows", str(options.rows), "--page-size", "1000", "--prerender"], stdout=subprocess.PIPE, text=True)
    try:
        address = server.stdout.readline().removeprefix("listening on ").strip()
        run(options, work, address)
    finally:
        server.terminate()
        server.wait()
        shutil.rmtree(work)


def run(options, work, address):
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=os.path.join(work, "state"))
    cursiva = lambda job: [APP, "run", os.path.join(HERE, job), "--new", "--input", f"cloud={address}"]
    clients = {
        "a": ("read the pages, throw them away", [CLIENT, "discard", address], None),
        "f": ("read the pages into one flushed file", [CLIENT, "copy", address, f"{work}/copy"], None),
        "b": ("plain C# loop to CSV", [CLIENT, "loop", address, f"{work}/loop.csv"], "loop.csv"),
        "c": ("plain Python loop to CSV", [sys.executable, os.path.join(HERE, "loop.py"), address, f"{work}/python.csv"], "python.csv"),
        "d": ("cursiva run, the pull alone", cursiva("pull.cursiva.yaml"), None),
        "e": ("cursiva run, pull and CSV", [*cursiva("report.cursiva.yaml"), "--input", f"folder={work}"], "consignments.csv"),
    }
    clients = {letter: client for letter, client in clients.items() if letter not in options.without}
    results = {letter: [] for letter in clients}
    measure([CLIENT, "discard", address], environment)  # warms the server up
    for _ in range(options.rounds):
        for letter, (_, command, output) in clients.items():
            results[letter].append(measure(command, environment))
            if output:
                check_csv(os.path.join(work, output), options.rows)
            shutil.rmtree(os.path.join(work, "state"), ignore_errors=True)
    report(options, clients, results)


def report(options, clients, results):
    medians = {letter: [statistics.median(run[i] for run in runs) for i in range(3)] for letter, runs in results.items()}
    print(f"{options.rows:,} consignments, 1,000 a page, median of {options.rounds} rounds, {os.cpu_count()} cores\n")
    print("| | client | wall s | (least to most) | CPU s | peak MB | x (a) |" + (" x (b) |" if "b" in clients else ""))
    print("|---|---|---:|---|---:|---:|---:|" + ("---:|" if "b" in clients else ""))
    for letter, (name, _, _) in clients.items():
        wall, cpu, peak = medians[letter]
        spread = [run[0] for run in results[letter]]
        ratios = f" {wall / medians['a'][0]:.2f} |" + (f" {wall / medians['b'][0]:.2f} |" if "b" in clients else "")
        print(f"| ({letter}) | {name} | {wall:.2f} | {min(spread):.2f} to {max(spread):.2f} | {cpu:.2f} | {peak:.0f} |{ratios}")
    aims = [("d", "a", 2.2), ("d", "f", 1.5), ("e", "a", 7), ("e", "b", 0.6), ("e", "c", 0.2)]
    print()
    for one, other, aim in aims:
        if one in medians and other in medians:
            ratio = medians[one][0] / medians[other][0]
            print(f"- ({one}) is {ratio:.2f} x ({other}); the aim is at most {aim} ({'met' if ratio <= aim else 'not met'})")
    if "d" in medians:
        print(f"- peak memory of (d) is {medians['d'][2]:.0f} MB; the aim is at most 80 MB ({'met' if medians['d'][2] <= 80 else 'not met'})")
    print(json.dumps({"rows": options.rows, "medians": {k: [round(x, 3) for x in v] for k, v in medians.items()}}))


if __name__ == "__main__":
    main()
