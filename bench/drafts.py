#!/usr/bin/env python3
"""Drafts a job from every listing of the stand-in cloud, runs each as it was drafted, and compares the rows with those that were served.

A draft is exact when its run ends well and its CSV has every row, each value digit for digit. What is not exact must say so in the draft.
"""
import argparse
import csv
import json
import os
import re
import shutil
import subprocess
import sys
import tempfile
import urllib.request

HERE = os.path.dirname(os.path.abspath(__file__))
ROOT = os.path.dirname(HERE)
APP = os.environ.get("CURSIVA_APP", os.path.join(ROOT, "artifacts", "app"))
SECRET = "not-a-real-secret"

# What it is, the address, the body of a POST, and what its rows are: all consignments, or another listing, or None where no run could be exact.
SHAPES = [
    ("link in the page", "/consignments", None, "consignments"),
    ("link in the page, small pages", "/consignments?size=7", None, "consignments"),
    ("relative links", "/consignments?links=relative", None, "consignments"),
    ("pretty-printed", "/consignments?shape=pretty", None, "consignments"),
    ("depots", "/depots", None, "/depots"),
    ("carriers", "/carriers", None, "/carriers"),
    ("array of links", "/by/links", None, "consignments"),
    ("Link header", "/by/link-header", None, "consignments"),
    ("cursor in headers", "/by/cursor-header", None, "consignments"),
    ("cursor that is a number", "/by/number-cursor", None, "consignments"),
    ("cursor of two values", "/by/two-cursors", None, "consignments"),
    ("cursor that is an object", "/by/object-cursor", '{"what": "all"}', "consignments"),
    ("search with the cursor in the body", "/by/search", '{"page": {"size": 25}, "exact": true}', "consignments"),
    ("page number, no total", "/by/page?page=1", None, "consignments"),
    ("page number, total given", "/by/page?page=1&tell=total", None, "consignments"),
    ("page number, pages told", "/by/page?page=1&tell=pages", None, "consignments"),
    ("page number, more told", "/by/page?page=1&tell=more", None, "consignments"),
    ("page number from 0", "/by/page?page=0&base=0&tell=total", None, "consignments"),
    ("page number in the path", "/by/path/1", None, "consignments"),
    ("page number, 404 behind the end", "/by/counted-in-headers", None, "consignments"),
    ("page number, 204 behind the end", "/by/counted-in-headers?behind=204", None, "consignments"),
    ("total in a header", "/by/counted-in-headers?tell=total", None, "consignments"),
    ("pages in a header", "/by/counted-in-headers?tell=pages", None, "consignments"),
    ("offset, nothing told", "/by/offset", None, "consignments"),
    ("offset, total given", "/by/offset?tell=total", None, "consignments"),
    ("offset from 1", "/by/offset?base=1&offset=1&tell=total", None, "consignments"),
    ("keyset", "/by/key", None, "consignments"),
    ("keyset of two values", "/by/two-keys", None, "consignments"),
    ("several arrays", "/by/several", None, None),
    ("batches", "/by/batches", None, None),
    ("batches with a number of their own", "/by/days", None, "consignments"),
    ("plain values", "/by/values", None, "count"),
    ("UTF-16", "/by/utf-16", None, "consignments"),
    ("JSON called HTML", "/by/mislabelled", None, "consignments"),
    ("the server caps the size", "/moods/capped?size=100", None, "consignments"),
    ("more in words", "/moods/words", None, "consignments"),
    ("stream of lines", "/stream/lines", None, "consignments"),
    ("stream, one array", "/stream/array", None, "consignments"),
    ("text sequence", "/stream/sequence", None, "consignments"),
    ("stream of batches", "/stream/batches", None, "consignments"),
    ("CSV", "/stream/csv", None, "count"),
    ("not modified since", "/by/unchanged", None, "consignments"),
    ("empty", "/nothing", None, "empty"),
]


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--rows", type=int, default=240)
    parser.add_argument("--only", default="", help="a part of the name of a shape")
    options = parser.parse_args()
    if "CURSIVA_APP" not in os.environ:
        subprocess.run([os.path.join(ROOT, "build")], check=True)
    work = tempfile.mkdtemp(prefix="cursiva-drafts-")
    server = subprocess.Popen([os.path.join(APP, "stand-in", "cursiva-stand-in"), "--rows", str(options.rows), "--page-size", "25"], stdout=subprocess.PIPE, text=True)
    try:
        address = server.stdout.readline().removeprefix("listening on ").strip()
        truth = rows_of(address, token(address), "/consignments?size=10000")
        print("| listing | requests | drafted | rows |\n|---|---:|---|---|")
        shapes = [shape for shape in SHAPES if options.only in shape[0]]
        exact = sum(measure(options, work, address, truth, *shape) for shape in shapes)
        print(f"\n{exact} of {len(shapes)} listings drafted exactly: {100 * exact / len(shapes):.0f} %")
        sys.exit(0 if exact >= 0.9 * len(shapes) else "fewer than 90 % of the listings were drafted exactly")
    finally:
        server.terminate()
        server.wait()
        shutil.rmtree(work)


def token(address):
    form = f"grant_type=client_credentials&client_id=brackwater-demo&client_secret={SECRET}".encode()
    with urllib.request.urlopen(urllib.request.Request(address + "/oauth2/token", form)) as answer:
        return json.load(answer)["access_token"]


def rows_of(address, bearer, path):
    """The rows of one page, by id, their numbers as they are written."""
    request = urllib.request.Request(address + "/v2" + path, headers={"Authorization": "Bearer " + bearer})
    with urllib.request.urlopen(request) as answer:
        page = json.load(answer, parse_float=str, parse_int=str)
    return {row["id"]: {name: shown(value) for name, value in flat(row)} for row in page["items"]}


def flat(row, before=""):
    for name, value in row.items():
        if isinstance(value, dict):
            yield from flat(value, f"{before}{name}_")
        else:
            yield before + name, value


def shown(value):
    if isinstance(value, list):
        return "[" + ",".join(shown(item) if re.fullmatch(r"-?\d+(\.\d+)?", str(item)) else json.dumps(item, ensure_ascii=False) for item in value) + "]"
    return "" if value is None else {True: "true", False: "false"}.get(value, value) if isinstance(value, bool) else str(value)


def measure(options, work, address, truth, name, path, body, rows):
    folder = os.path.join(work, re.sub(r"\W+", "-", name))
    os.makedirs(folder)
    environment = dict(os.environ, BRACKWATER_SECRET=SECRET, CURSIVA_STATE=os.path.join(folder, "state"))
    draft = [os.path.join(APP, "cursiva"), "draft", address + "/v2" + path, "--token-endpoint", address + "/oauth2/token", "--client-id", "brackwater-demo", "--secret", "env:BRACKWATER_SECRET", "--out", "job.cursiva.yaml", "--format", "json"]
    made = subprocess.run(draft + (["--body", body] if body else []), env=environment, capture_output=True, text=True, cwd=folder, check=False)
    if made.returncode != 0:
        print(f"| {name} | | refused | {made.stderr.strip().splitlines()[0]} |", flush=True)
        return False
    told = json.loads(made.stdout)
    text = open(os.path.join(folder, "job.cursiva.yaml"), encoding="utf-8").read()
    paging = next((line.strip().split("  #")[0] for line in text.splitlines() if line.strip().startswith(("paging:", "# no paging"))), "")
    ended = subprocess.run([os.path.join(APP, "cursiva"), "run", "job.cursiva.yaml"], env=environment, capture_output=True, text=True, cwd=folder, check=False)
    verdict = judge(options, folder, address, truth, rows, told["pull"], ended)
    unsure = "" if not any(line.startswith("paging") for line in told["open"]) else " (to decide)"
    print(f"| {name} | {told['requests']} | `{paging[:70]}`{unsure} | {verdict} |", flush=True)
    return verdict == "exact"


def judge(options, folder, address, truth, rows, pull, ended):
    if rows == "empty":
        return "exact" if ended.returncode == 0 else f"ended with {ended.returncode}"
    if ended.returncode != 0:
        return f"ended with {ended.returncode}: {ended.stderr.strip().splitlines()[0]}"
    with open(os.path.join(folder, "reports", pull + ".csv"), newline="", encoding="utf-8") as file:
        came = list(csv.DictReader(file))
    if rows == "count":
        return "exact" if len(came) == options.rows else f"{len(came)} rows"
    expected = truth if rows in ("consignments", None) else rows_of(address, token(address), rows + "?size=10000")
    if len(came) != len(expected):
        return f"{len(came)} of {len(expected)} rows"
    wrong = [(row["id"], name) for row in came for name, value in expected.get(row["id"], {"id": None}).items() if row.get(name) != value]
    return "exact" if not wrong else f"{len(wrong)} values differ, first {wrong[0]}"


if __name__ == "__main__":
    main()
