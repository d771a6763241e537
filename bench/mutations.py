#!/usr/bin/env python3
"""Breaks one promise after the other in a copy of the source, and tells whether a test of the core notices.

Each mutation is one line with a name. What survives is a promise that nothing holds.
"""
import argparse
import os
import shutil
import subprocess
import sys
import tempfile

ROOT = os.path.dirname(os.path.dirname(os.path.abspath(__file__)))
CORE = "src/Cursiva.Core/"

# Name, file, what stands there, and what stands there instead.
MUTATIONS = [
    ("the index is written before the segments are flushed", "Landing/RunLanding.cs", "                foreach (var pull in pulls)\n                    pull.Flush();\n                _index.Apply(changes);", "                _index.Apply(changes);\n                foreach (var pull in pulls)\n                    pull.Flush();"),
    ("a new segment's folder is not flushed", "Landing/PullLanding.cs", "            _disk.FlushFolder(_folder);", "            _ = _folder;"),
    ("after a failed flush pages are committed on", "Landing/RunLanding.cs", "                if (_failure is not null)\n                    throw Broken(_failure);\n                (changes", "                (changes"),
    ("a landing with a hole is opened", "Landing/SegmentFolder.cs", "            if (page.Page != next++)", "            if (page.Page < next++)"),
    ("a small file is renamed before it is flushed", "Files/WholeFile.cs", "            file.Write(bytes, 0);\n            file.Flush();", "            file.Write(bytes, 0);"),
    ("the folder is not flushed before the list of renames", "Files/FileSet.cs", "        foreach (var folder in Folders(_files))\n            disk.FlushFolder(folder);\n\n        WholeFile", "        WholeFile"),
    ("the folder is not flushed before the list of renames goes", "Files/FileSet.cs", "        foreach (var folder in Folders(files))\n            disk.FlushFolder(folder);\n        disk.Delete(listPath);", "        disk.Delete(listPath);"),
    ("a token's life is counted from its answer", "Identity/TokenEndpoint.cs", "        return new TokenReply(read, asked, refusal", "        return new TokenReply(read, _services.Clock.GetUtcNow(), refusal"),
    ("cookies are kept", "Http/HttpSender.cs", "UseCookies = false", "UseCookies = true"),
    ("redirects are followed", "Http/HttpSender.cs", "AllowAutoRedirect = false", "AllowAutoRedirect = true"),
    ("slots are free again when they are given back", "Http/Limiter.cs", "new SlotReturn(slot, answered + slot.Window.Window)", "new SlotReturn(slot, answered)"),
    ("a slot is taken before the token", "Apis/Passage.cs", "if (token is null || access.Tokens!.IsGood(token))", "if (true || token is null)"),
    ("a stream leaves its place at its headers", "Apis/ApiClient.cs", "if (answer?.Stream is not null)", "if (false && answer?.Stream is not null)"),
    ("a pause is forgotten by a restart", "Http/Limiter.cs", "        if (LaterPause(until) && _note is not null)", "        if (LaterPause(until) && false)"),
    ("a bare origin gets credentials", "Apis/ApiAddress.cs", "IsWithin(api, address) ? true :", "address.IsAbsoluteUri && api.AlsoOrigins.ContainsKey(OriginOf(address)) ? true : IsWithin(api, address) ? true :"),
    ("a page with the rows of an earlier one is taken", "Pulls/ListingProof.cs", "if (rows > 0 && _digests.Contains(_digest))", "if (rows > 1_000_000 && _digests.Contains(_digest))"),
    ("fewer rows than told are enough", "Pulls/ListingProof.cs", "if (rows < told * (1 - run.Pull.Paging.AllowMissing))", "if (rows < 0 * told)"),
    ("a submission is sent twice", "Apis/ApiClient.cs", "exchange.Wanted.Once && status >= 500 && asked is null", "false && exchange.Wanted.Once && status >= 500 && asked is null"),
    ("the pieces of a capped window stay", "Pulls/StrandRun.cs", "        DropPieces();\n        Land([], 0, null, ended: Ending.Halved);", "        Land([], 0, null, ended: Ending.Halved);"),
    ("a download is taken for whole by its length alone", "Pulls/DownloadedFile.cs", " || Validator(answer) != kept![0]))", "))"),
]


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--only", default="", help="a word of the names to try")
    options = parser.parse_args()
    work = tempfile.mkdtemp(prefix="cursiva-mutations-")
    survived = []
    try:
        copy = os.path.join(work, "copy")
        shutil.copytree(ROOT, copy, ignore=shutil.ignore_patterns("artifacts", ".git", "node_modules"))
        for name, file, was, becomes in (one for one in MUTATIONS if options.only in one[0]):
            path = os.path.join(copy, CORE, file)
            with open(path, encoding="utf-8") as source:
                text = source.read()
            if text.count(was) != 1:
                sys.exit(f"{file} does not have it once: {was}")
            with open(path, "w", encoding="utf-8") as source:
                source.write(text.replace(was, becomes))
            noticed = run(copy)
            print(f"| {name} | {noticed} |", flush=True)
            if noticed == "survived":
                survived.append(name)
            with open(path, "w", encoding="utf-8") as source:
                source.write(text)
    finally:
        shutil.rmtree(work)
    sys.exit(f"{len(survived)} survived" if survived else 0)


def run(copy):
    out = os.path.join(copy, "artifacts", "mutated")
    built = subprocess.run(["dotnet", "build", "tests/Cursiva.Core.Tests", "-c", "Debug", "-v", "q", "-o", out, "-p:TreatWarningsAsErrors=false"], cwd=copy, capture_output=True, text=True, check=False)
    if built.returncode != 0:
        sys.exit(built.stdout[-3000:])
    tested = subprocess.run([os.path.join(out, "Cursiva.Core.Tests"), "-noColor", "-stopOnFail", "-class-", "Cursiva.Core.Tests.HouseTests"], cwd=copy, capture_output=True, text=True, check=False)
    failed = [line.strip().split(" [FAIL]")[0].split("(")[0].split(".")[-1] for line in tested.stdout.splitlines() if "[FAIL]" in line]
    return failed[0].replace("_", " ") if failed else "survived"


if __name__ == "__main__":
    main()
