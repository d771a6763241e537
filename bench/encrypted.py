#!/usr/bin/env python3
"""What encryption costs: the same rows in the clear, and through the customs desk in each of its ways, in turns.

Prints the wall time of each and the ratio of the medians. The stand-in encrypts on the same machine, so its work is in the figures.
"""
import argparse
import os
import shutil
import statistics
import subprocess
import tempfile
import time

HERE = os.path.dirname(os.path.abspath(__file__))
ROOT = os.path.dirname(HERE)
APP = os.path.join(ROOT, "artifacts", "app", "cursiva")
STAND_IN = os.path.join(ROOT, "artifacts", "app", "stand-in", "cursiva-stand-in")

IDENTITIES = {
    "clear": "{{ grant: client_credentials, token-endpoint: {cloud}/oauth2/token, client-id: brackwater-demo, secret: env:BRACKWATER_SECRET }}",
    "old": "{{ grant: session, token-endpoint: {cloud}/customs/old/sign-in, token-body: json, token-parameters: {{ user_name: brackwater, password: env:BRACKWATER_SECRET }}, token-at: /data/token, header: X-Desk-Token, encryption: {{ key: '{cloud}/customs/keys', key-id: desk-1, algorithm: RSA1_5, members: [/password, /app_key], session-key: {{ send-at: /app_key, answer-at: /data/session_key, wrapped: AES-256-ECB }} }} }}",
    "middle": "{{ grant: session, token-endpoint: {cloud}/customs/middle/sign-in, token-body: json, token-parameters: {{ user_name: brackwater, password: env:BRACKWATER_SECRET }}, token-at: /token, header: X-Desk-Token, encryption: {{ key: '{cloud}/customs/keys', key-id: desk-1, algorithm: RSA-OAEP, at: /data, answer-at: /data, session-key: {{ send-at: /app_key, answer-at: /session_key, wrapped: AES-256-CBC }} }} }}",
    "standard": "{{ grant: session, token-endpoint: {cloud}/customs/standard/sign-in, token-body: json, token-parameters: {{ user_name: brackwater, password: env:BRACKWATER_SECRET }}, encryption: {{ key: '{cloud}/customs/keys', key-id: desk-1, content: A256GCM, session-key: {{ send-at: /app_key, answer-at: /session_key, wrapped: JWE }} }} }}",
}
APIS = {
    "clear": "{{ base: {cloud}/v2, identity: app }}",
    "old": "{{ base: {cloud}/customs/old/v2, identity: app, encryption: {{ cipher: AES-256-ECB, answer-at: /data }} }}",
    "middle": "{{ base: {cloud}/customs/middle/v2, identity: app, encryption: {{ cipher: AES-256-CBC, answer-at: /data }} }}",
    "standard": "{{ base: {cloud}/customs/standard/v2, identity: app, encryption: {{ cipher: JWE }}, signatures: {{ answers: {{ form: http-message, key: '{cloud}/customs/keys', key-id: seal-1 }} }} }}",
}
JOB = """cursiva: 1
name: {way}
identities:
  app: {identity}
apis:
  exchange: {api}
pulls:
  consignments: {{ get: /consignments, rows: /items, paging: {{ cursor: /page/cursor, parameter: cursor }} }}
reports:
  count: {{ sql: select count(*) as rows from consignments, write: "{way}.csv" }}
"""


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, default=100_000)
    parser.add_argument("--turns", type=int, default=5)
    options = parser.parse_args()
    subprocess.run([os.path.join(ROOT, "build")], check=True)
    work = tempfile.mkdtemp(prefix="cursiva-encrypted-")
    server = subprocess.Popen([STAND_IN, "--rows", str(options.rows), "--prerender"], stdout=subprocess.PIPE, text=True)
    try:
        cloud = server.stdout.readline().removeprefix("listening on ").strip()
        walls = {way: [] for way in APIS}
        for way in APIS:
            identity, api = IDENTITIES[way].format(cloud=cloud), APIS[way].format(cloud=cloud)
            with open(os.path.join(work, way + ".cursiva.yaml"), "w", encoding="utf-8") as job:
                job.write(JOB.format(way=way, identity=identity, api=api))
        for turn in range(options.turns + 1):
            for way in APIS:
                wall, peak = run(work, way, options.rows)
                if turn > 0:
                    walls[way].append((wall, peak))
        clear = statistics.median(wall for wall, _ in walls["clear"])
        print(f"{options.rows:,} rows, median of {options.turns}\n\n| way | seconds | beside the clear | peak MB |\n|---|---:|---:|---:|")
        for way, all_of in walls.items():
            wall = statistics.median(wall for wall, _ in all_of)
            print(f"| {way} | {wall:.2f} | {wall / clear:.2f} x | {max(peak for _, peak in all_of):.0f} |")
    finally:
        server.terminate()
        server.wait()
        shutil.rmtree(work)


def run(work, way, rows):
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=os.path.join(work, "state"))
    began = time.monotonic()
    timed = subprocess.run(["/usr/bin/time", "-f", "%M", APP, "run", way + ".cursiva.yaml", "--new", "--format", "json"], cwd=work, env=environment, capture_output=True, text=True)
    wall = time.monotonic() - began
    assert timed.returncode == 0, timed.stderr
    brought = open(os.path.join(work, "reports", way + ".csv"), encoding="utf-8").read().split()[1]
    assert int(brought) == rows, brought
    return wall, int(timed.stderr.split()[-1]) / 1024


if __name__ == "__main__":
    main()
