#!/usr/bin/env python3
"""Measures HTTP/1.1 beside HTTP/2 over TLS, with nginx in front of the stand-in (Debian: apt-get install nginx-light openssl).

Many strands ask for pages at 20 ms each way. Both versions run one after the other in each round, against the same servers.
"""
import argparse
import os
import shutil
import subprocess
import tempfile
import time

from strands import APP, Cloud

JOB = """
cursiva: 1
identities:
  app: {{ grant: client_credentials, token-endpoint: {plain}/oauth2/token, client-id: brackwater-demo, secret: env:BRACKWATER_SECRET }}
apis:
  exchange: {{ base: {secure}/v2, identity: app, http: "{version}", limits: {{ at-once: {parallel} }} }}
pulls:
  tenants: {{ get: '/tenants?size=1000', rows: /items, paging: {{ next-link: /next }} }}
  scans:
    per: tenants
    get: /tenants/{{tenants.id}}/scans
    rows: /items
    parallel: {parallel}
    paging: {{ next-link: /next }}
    skip-when: [{{ status: 403 }}]
"""

NGINX = """
daemon off;
pid {work}/nginx.pid;
error_log {work}/error.log;
worker_processes 1;
events {{ worker_connections 4096; }}
http {{
  access_log off;
  client_body_temp_path {work}/body; proxy_temp_path {work}/proxy; fastcgi_temp_path {work}/fastcgi; uwsgi_temp_path {work}/uwsgi; scgi_temp_path {work}/scgi;
  keepalive_requests 1000000; http2_max_concurrent_streams 256;
  upstream cloud {{ server {upstream}; keepalive 256; keepalive_requests 1000000; }}
  server {{
    listen 127.0.0.1:{port} ssl http2;
    ssl_certificate {work}/server.crt; ssl_certificate_key {work}/server.key;
    location / {{ proxy_pass http://cloud; proxy_http_version 1.1; proxy_set_header Connection ""; proxy_set_header Host $http_host; proxy_set_header X-Forwarded-Proto https; }}
  }}
}}
"""


def main():
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--tenants", type=int, default=1000)
    parser.add_argument("--rounds", type=int, default=2)
    parser.add_argument("--port", type=int, default=8443)
    options = parser.parse_args()
    work = tempfile.mkdtemp(prefix="cursiva-http-")
    try:
        subprocess.run(["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=localhost", "-addext", "subjectAltName=DNS:localhost,IP:127.0.0.1",
                        "-keyout", os.path.join(work, "server.key"), "-out", os.path.join(work, "server.crt")], check=True, stderr=subprocess.DEVNULL)
        with Cloud("--latency", "20", "--tenants", str(options.tenants)) as cloud:
            with open(os.path.join(work, "nginx.conf"), "w", encoding="utf-8") as conf:
                conf.write(NGINX.format(work=work, upstream=cloud.address.removeprefix("http://"), port=options.port))
            nginx = subprocess.Popen(["nginx", "-c", os.path.join(work, "nginx.conf"), "-p", work], stderr=subprocess.DEVNULL)
            try:
                time.sleep(1)
                print("| strands | HTTP/1.1 | HTTP/2 |\n|---|---:|---:|")
                for parallel in (8, 32, 100):
                    seconds = {"1.1": [], "2": []}
                    for _ in range(options.rounds):
                        for version, taken in seconds.items():
                            taken.append(run(work, cloud, options.port, version, parallel))
                    print(f"| {parallel} | " + " | ".join(", ".join(f"{one:.1f}" for one in taken) for taken in seconds.values()) + " |", flush=True)
            finally:
                nginx.terminate()
                nginx.wait()
    finally:
        shutil.rmtree(work)


def run(work, cloud, port, version, parallel):
    """Runs the job from the beginning, and returns its wall time in seconds."""
    job = os.path.join(work, "job.cursiva.yaml")
    with open(job, "w", encoding="utf-8") as text:
        text.write(JOB.format(plain=cloud.address, secure=f"https://localhost:{port}", version=version, parallel=parallel))
    state = tempfile.mkdtemp(dir=work)
    environment = dict(os.environ, BRACKWATER_SECRET="not-a-real-secret", CURSIVA_STATE=state, SSL_CERT_FILE=os.path.join(work, "server.crt"))
    begun = time.monotonic()
    subprocess.run([APP, "run", job], env=environment, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
    return time.monotonic() - begun


if __name__ == "__main__":
    main()
