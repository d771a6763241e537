#!/usr/bin/env python3
"""Pulls 100,000 rows in every style of paging from the stand-in cloud, and counts requests where they arrive.

Rows have to be exact, and no style may take more than one request above the least possible: the pages that hold the rows.
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
import urllib.request

HERE = os.path.dirname(os.path.abspath(__file__))
ROOT = os.path.dirname(HERE)
APP = os.path.join(ROOT, "artifacts", "app", "cursiva")
STAND_IN = os.path.join(ROOT, "artifacts", "app", "stand-in", "cursiva-stand-in")

# Name, pull, and whether the whole listing is one request.
STYLES = [
    ("link in the page", "get: /consignments, rows: /items, paging: { next-link: /links/next }", False),
    ("array of links", "get: /by/links, rows: /items, paging: { next-link: { at: /links } }", False),
    ("Link header", "get: /by/link-header, rows: '', paging: { link-header: next }", False),
    ("cursor", "get: /consignments, rows: /items, paging: { cursor: /page/cursor, parameter: cursor }", False),
    ("cursor in headers", "get: /by/cursor-header, rows: '', paging: { cursor-header: X-Next-Cursor, header: X-After }", False),
    ("cursor of two values", "get: /by/two-cursors, rows: /items, paging: { cursor: [/next/row, /next/check], parameter: row, header: X-Check }", False),
    ("cursor that is an object", "post: /by/object-cursor, body: { what: all }, rows: /items, paging: { cursor: /after, body-at: /after }", False),
    ("page number, total given", "get: '/by/page?tell=total', rows: /items, paging: { page-number: 1, parameter: page, total: /total }", False),
    ("page number, no total", "get: /by/page, rows: /items, paging: { page-number: 1, parameter: page }", False),
    ("page number in the path", "get: '/by/path/{page}', rows: /items, paging: { page-number: 1, placeholder: page, total: /total }", False),
    ("page number, 404 at the end", "get: /by/counted-in-headers, rows: /items, paging: { page-number: 1, parameter: page, end-status: 404 }", False),
    ("offset, total given", "get: '/by/offset?tell=total', rows: /items, paging: { offset: 0, parameter: offset, total: /total }", False),
    ("the server caps the size", "get: '/moods/capped?size=4000', rows: /items, paging: { page-number: 1, parameter: page, total: /total }", False),
    ("keyset", "get: /by/key, rows: '', paging: { keyset: /id, parameter: after, page-size: 1000 }", False),
    ("keyset of two values", "get: /by/two-keys, rows: /items, paging: { keyset: [/booked_at, /id], parameter: [time, id], page-size: 1000 }", False),
    ("stream of lines", "get: /stream/lines, paging: { stream: lines }", True),
    ("stream, one array", "get: /stream/array, paging: { stream: array }", True),
    ("text sequence", "get: /stream/sequence, paging: { stream: sequence }", True),
]


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, default=100_000)
    parser.add_argument("--rounds", type=int, default=3)
    options = parser.parse_args()
    subprocess.run([os.path.join(ROOT, "build")], check=True)
    work = tempfile.mkdtemp(prefix="cursiva-shapes-")
    server = subprocess.Popen([STAND_IN, "--rows", str(options.rows), "--page-size", "1000"], stdout=subprocess.PIPE, text=True)
    try:
        address = server.stdout.readline().removeprefix("listening on ").strip()
        print(f"{options.rows:,} rows, 1,000 a page, median of {options.rounds}\n")
        print("| style | wall s | requests | least | rows |\n|---|---:|---:|---:|---|")
        good = [measure(options, work, address, *style) for style in STYLES]
        sys.exit(0 if all(good) else "a style lost rows or asked too often")
    finally:
        server.terminate()
        server.wait()
        shutil.rmtree(work)


def requests(address):
    with urllib.request.urlopen(address + "/statistics") as answer:
        return json.load(answer)["requests"]


def measure(options, work, address, name, pull, once):
    path = os.path.join(work, "shape.cursiva.yaml")
    with open(path, "w", encoding="utf-8") as job:
        job.write(f"""cursiva: 1
identities: {{ app: {{ grant: client_credentials, token-endpoint: "{address}/oauth2/token", client-id: brackwater-demo, secret: env:BRACKWATER_SECRET }} }}
apis: {{ exchange: {{ base: "{address}/v2", identity: app }} }}
pulls:
  p: {{ {pull} }}
reports:
  ids: {{ sql: "select count(*) as rows, count(distinct id) as ids from p", write: ids.csv }}
""")
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=os.path.join(work, "state"))
    walls, asked = [], 0
    for _ in range(options.rounds):
        before, start = requests(address), time.monotonic()
        ended = subprocess.run([APP, "run", path, "--new"], env=environment, capture_output=True, text=True, cwd=work, check=False)
        walls.append(time.monotonic() - start)
        if ended.returncode != 0:
            sys.exit(f"{name} ended with {ended.returncode}:\n{ended.stderr}")
        asked = requests(address) - before
    with open(os.path.join(work, "reports", "ids.csv"), newline="", encoding="utf-8") as file:
        rows, ids = (int(value) for value in list(csv.reader(file))[1])
    least = 1 if once else -(-options.rows // 1000)
    exact = rows == ids == options.rows
    print(f"| {name} | {statistics.median(walls):.2f} | {asked} | {least} | {'exact' if exact else f'{rows} rows, {ids} ids'} |", flush=True)
    return exact and asked <= least + 1


if __name__ == "__main__":
    main()
