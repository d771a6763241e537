"""The plain Python loop that Cursiva is measured against: urllib, json, csv. ADDRESS FILE"""
import csv
import json
import sys
import urllib.parse
import urllib.request

address, path = sys.argv[1:3]
form = urllib.parse.urlencode({"grant_type": "client_credentials", "client_id": "brackwater-demo", "client_secret": "not-a-real-secret"})
token = json.load(urllib.request.urlopen(address + "/oauth2/token", form.encode()))["access_token"]

with open(path, "w", newline="") as output:
    writer, url = None, address + "/v2/consignments"
    while url:
        request = urllib.request.Request(url, headers={"Authorization": "Bearer " + token})
        page = json.load(urllib.request.urlopen(request))
        for row in page["items"]:
            if writer is None:
                writer = csv.DictWriter(output, row.keys())
                writer.writeheader()
            writer.writerow(row)
        cursor = page["page"]["cursor"]
        url = f"{address}/v2/consignments?cursor={cursor}" if cursor else None
