#!/usr/bin/env python3
"""Measures what a stop costs: how many pages are fetched again after a kill half way, what checkpoints cost beside one flush at the
end, and whether memory stays the same with ten times the rows."""
import argparse
import json
import os
import shutil
import signal
import statistics
import subprocess
import tempfile
import time

from strands import APP, HERE, ROOT, Cloud

CLIENT = os.path.join(ROOT, "artifacts", "bench", "cursiva-bench")


def command(cloud):
    return [APP, "run", os.path.join(HERE, "pull.cursiva.yaml"), "--input", f"cloud={cloud.address}", "--format", "json"]


def kill_half_way(environment):
    with Cloud("--rows", "1000000", "--page-size", "1000", "--prerender") as cloud:
        process = subprocess.Popen(command(cloud), env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        history = []
        while not history or history[-1][1] < 500:
            history.append((time.monotonic(), cloud.statistics()["requests"]))
            time.sleep(0.01)
        process.send_signal(signal.SIGKILL)
        process.wait()
        killed = time.monotonic()
        before = cloud.statistics()["requests"]
        recent = before - max((count for at, count in history if at <= killed - 0.25), default=0)
        out = subprocess.run(command(cloud), env=environment, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, check=True).stdout
        again = cloud.statistics()["requests"] - 1000
    rows = json.loads(out)["pulls"][0]["rows"]
    print(f"kill half way: {again} pages fetched again of 1,000 ({rows:,} rows landed); {recent} were asked for in the last 250 ms before the kill")
    print(f"- the aim is at most those and what was in flight ({'met' if again <= recent + 2 else 'not met'})")


def checkpoints(work, rounds):
    times = {"every": [], "end": []}
    for _ in range(rounds):
        for when in times:
            folder = os.path.join(work, "landing")
            shutil.rmtree(folder, ignore_errors=True)
            out = subprocess.run([CLIENT, "checkpoints", folder, when], stdout=subprocess.PIPE, check=True, text=True).stdout
            times[when].append(float(out))
    every, end = (statistics.median(times[when]) for when in ("every", "end"))
    print(f"checkpoints: 1,000 pages of 290 KB landed in {every:.2f} s with a commit every 250 ms, {end:.2f} s with one at the end (medians of {rounds})")
    print(f"- they cost {(every / end - 1) * 100:+.1f} %; the aim is at most 5 % ({'met' if every / end <= 1.05 else 'not met'})")


def memory(environment):
    peaks = {}
    for rows in (1_000_000, 10_000_000):
        with Cloud("--rows", str(rows), "--page-size", "1000") as cloud:
            process = subprocess.Popen([*command(cloud), "--new"], env=environment, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
            _, status, usage = os.wait4(process.pid, 0)
            process.returncode = os.waitstatus_to_exitcode(status)
            assert process.returncode == 0, process.returncode
            peaks[rows] = usage.ru_maxrss / 1024
    small, large = peaks.values()
    print(f"memory: {small:.0f} MB for 1,000,000 rows, {large:.0f} MB for 10,000,000")
    print(f"- {large / small:.2f} x; the aim is the same ({'met' if large <= small * 1.1 else 'not met'})")


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rounds", type=int, default=5)
    parser.add_argument("--without-memory", action="store_true", help="leave out the ten million rows, which take minutes")
    options = parser.parse_args()
    subprocess.run([os.path.join(ROOT, "build")], check=True)
    subprocess.run(["dotnet", "publish", os.path.join(HERE, "Cursiva.Bench"), "-c", "Release", "-o", os.path.dirname(CLIENT), "-v", "q", "--nologo"], check=True, stdout=subprocess.DEVNULL)
    work = tempfile.mkdtemp(prefix="cursiva-stops-")
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=os.path.join(work, "state"))
    try:
        kill_half_way(environment)
        checkpoints(work, options.rounds)
        if not options.without_memory:
            memory(environment)
    finally:
        shutil.rmtree(work)


if __name__ == "__main__":
    main()
