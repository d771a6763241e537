#!/usr/bin/env python3
"""Fills a state with the records of many runs, and measures how long looking back at them takes. Nothing is fetched."""
import argparse, datetime, json, os, sqlite3, subprocess, tempfile, time

parser = argparse.ArgumentParser()
parser.add_argument("--runs", type=int, default=100_000)
parser.add_argument("--jobs", type=int, default=40)
parser.add_argument("--rounds", type=int, default=5)
options = parser.parse_args()
cursiva = os.path.join(os.path.dirname(os.path.abspath(__file__)), "..", "artifacts", "app", "cursiva")


def measured(state, *arguments):
    times = []
    for _ in range(options.rounds):
        begun = time.monotonic()
        output = subprocess.run([cursiva, *arguments, "--state", state], check=True, capture_output=True).stdout
        times.append(time.monotonic() - begun)
    return sorted(times)[len(times) // 2], output.count(b"\n")


with tempfile.TemporaryDirectory() as folder:
    state = os.path.join(folder, "state")
    os.mkdir(state, 0o700)
    subprocess.run([cursiva, "overview", "--state", state], check=True, capture_output=True)
    database = sqlite3.connect(os.path.join(state, "state.db"))
    now = datetime.datetime.now(datetime.timezone.utc)
    per_job = options.runs // options.jobs
    rows = []
    for job in range(options.jobs):
        name, path = f"job-{job:02d}", os.path.join(folder, f"job-{job:02d}.cursiva.yaml")
        with open(path, "w") as file:
            file.write('cursiva: 1\nschedule: { at: "06:30" }\napis: { x: { base: https://x.example } }\npulls: { p: { get: /, rows: "" } }\n')
        rows.append(("job", name, path.encode()))
        for run in range(1, per_job + 1):
            start = now - datetime.timedelta(minutes=(per_job - run) * 60 + job)
            record = {"number": run, "started-at": start.isoformat(), "period": "", "landing-format": 4, "state": "done", "ended-at": (start + datetime.timedelta(seconds=40)).isoformat(),
                      "outcome": 0, "rows": {"p": 5000 + run % 7}, "requests": 60, "took": "00:00:40"}
            rows.append(("run", f"{name}/{run:09d}", json.dumps(record).encode()))
    database.executemany("insert into documents (kind, key, document) values (?, ?, ?)", rows)
    database.execute("delete from documents where kind = 'history-made'")
    database.commit()
    database.close()
    print(f"{per_job * options.jobs:,} runs of {options.jobs} jobs; median of {options.rounds}")
    begun = time.monotonic()
    subprocess.run([cursiva, "runs", "list", "--all-jobs", "--since", "1d", "--state", state], check=True, capture_output=True)
    print(f"the first look, which makes the history of older records: {time.monotonic() - begun:.2f} s")
    for title, arguments in [
        ("runs list --all-jobs --since 1d", ["runs", "list", "--all-jobs", "--since", "1d"]),
        ("runs list --all-jobs --since 7d", ["runs", "list", "--all-jobs", "--since", "7d"]),
        ("runs list --all-jobs --since 3650d", ["runs", "list", "--all-jobs", "--since", "3650d"]),
        ("overview", ["overview"]),
    ]:
        took, lines = measured(state, *arguments)
        print(f"{title}: {took:.2f} s, {lines:,} lines")
