"""Runs docs/run-it.md in a bare Debian, as it stands, and uses what comes of it: the first lead sets a password by
the link that was printed, starts a job through the proxy, and the drill brings every record back. Started by
`bin/run-it`; prints each line it runs."""

import json
import os
import re
import shlex
import shutil
import signal
import subprocess
import sys
import time
import uuid
from pathlib import Path

HERE = Path(__file__).parents[1]
ROOT = HERE / "var/debian"
SITE = "nivelum.example"
MIRROR = os.environ.get("DEBIAN_MIRROR", "http://deb.debian.org/debian")
BLOCK = re.compile(r"^```sh\n(.*?)^```$", re.M | re.S)
# There is no systemd in a folder: this starts what a unit says, and Debian's own services by their scripts.
SYSTEMCTL = r"""#!/bin/bash
set -eu
start() {
  unit=/etc/systemd/system/$1.service
  if [ -e "$unit" ]; then
    user=$(sed -n 's/^User=//p' "$unit"); environment=$(sed -n 's/^Environment=//p' "$unit")
    stop "$1"
    command=$(sed -n 's/^ExecStart=//p' "$unit")
    setsid runuser -u "${user:-root}" -- env $environment $command >>/var/log/$1.log 2>&1 </dev/null &
    echo $! >/run/$1.pid
  else
    service "$1" restart
  fi
}
stop() { [ ! -e /run/$1.pid ] || { kill -TERM -- "-$(cat /run/$1.pid)" || true; sleep 3; rm -f /run/$1.pid; }; }
case $1 in
  daemon-reload) ;;
  enable) for each in "$@"; do case $each in *.service) start "${each%.service}" ;; esac; done ;;
  start | restart) start "${2%.service}" ;;
  stop) stop "${2%.service}" ;;
esac
"""


def inside(script: str, **more: str) -> subprocess.CompletedProcess[str]:
    path = "/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin"
    environment = {"PATH": path, "HOME": "/root", "LANG": "C.UTF-8", "DEBIAN_FRONTEND": "noninteractive",
                   "SOURCE": "/source"} | more  # fmt: skip
    return subprocess.run(
        ["chroot", str(ROOT), "/bin/bash", "-euo", "pipefail", "-c", script], env=environment, text=True, check=False,
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, stdin=subprocess.DEVNULL,
    )  # fmt: skip


def made() -> None:
    """A bare Debian, and what a machine has that a folder has not."""
    gone()  # what was kept of one before
    shutil.rmtree(ROOT, ignore_errors=True)
    subprocess.run(["debootstrap", "--variant=minbase", "bookworm", str(ROOT), MIRROR], check=True,
                       stdout=subprocess.DEVNULL)  # fmt: skip
    for what in ("proc", "sys", "dev", "dev/pts", "dev/shm"):
        subprocess.run(["mount", "--bind", f"/{what}", str(ROOT / what)], check=True)
    (ROOT / "usr/local/sbin/systemctl").write_text(SYSTEMCTL)
    (ROOT / "usr/local/sbin/systemctl").chmod(0o755)
    shutil.copy("/etc/resolv.conf", ROOT / "etc/resolv.conf")
    with (ROOT / "etc/hosts").open("a") as hosts:
        hosts.write(f"127.0.0.1 localhost {SITE}\n")
    # The certificates this machine trusts, for pip: there may be a proxy of its own on the way.
    trusted = ROOT / "usr/local/share/ca-certificates"
    trusted.mkdir(parents=True, exist_ok=True)
    shutil.copy("/etc/ssl/certs/ca-certificates.crt", ROOT / "trusted.pem")
    source = ROOT / "source"
    subprocess.run(["git", "clone", "-q", "--no-hardlinks", str(HERE), str(source)], check=True)


def gone() -> None:
    """Whatever still runs in it is ended, and it with that."""
    for process in Path("/proc").glob("[0-9]*/root"):
        try:
            if process.readlink() == ROOT:
                os.kill(int(process.parent.name), signal.SIGKILL)
        except OSError:
            continue
    time.sleep(1)
    for what in ("dev/shm", "dev/pts", "dev", "sys", "proc"):
        subprocess.run(["umount", "-l", str(ROOT / what)], check=False, stderr=subprocess.DEVNULL)
    if not os.environ.get("KEEP_ROOT"):
        shutil.rmtree(ROOT, ignore_errors=True)


NEW = {
    "name": "Gauge hut path", "traffic": "foot", "soil": "sand", "season": "dry", "neighbour": "none", "storm": "50",
    "dust_control": "water", "cutting": "on", "area_as": "sides", "area": "6\n4\n6", "spacing": "2",
    "height-count": "1", "height-0-kind": "threshold", "height-0-name": "door", "height-0-at": "side 3",
    "height-0-level": "10.000", "thing-count": "1", "thing-0-kind": "drain", "side-2-along": "building",
    "side-2-name": "hut", "outlet_fall": "1:100",
}  # fmt: skip
USED = r"""
import http.cookiejar, json, ssl, sys, urllib.parse, urllib.request
site, way, new = sys.argv[1], sys.argv[2], json.loads(sys.argv[3])
tls = ssl.create_default_context(cafile="/etc/ssl/nivelum/cert.pem")
jar = http.cookiejar.CookieJar()
secure, kept = urllib.request.HTTPSHandler(context=tls), urllib.request.HTTPCookieProcessor(jar)
opener = urllib.request.build_opener(secure, kept)

def post(path, data):
    opener.open(f"https://{site}{path}")
    token = next(cookie.value for cookie in jar if cookie.name == "csrftoken")
    sent = urllib.parse.urlencode(data | {"csrfmiddlewaretoken": token}).encode()
    asked = urllib.request.Request(f"https://{site}{path}", sent, {"Referer": f"https://{site}/"})
    return opener.open(asked).read().decode()

assert "Start a job" in post(way, {"password": "sleeper-and-string"})
assert "Gauge hut path" in post("/jobs/new/", new)
print("the first lead has set a password and started the first job")
"""


def used(said: str) -> str:
    """The first lead sets a password and starts a job, through the proxy and its certificate; empty, or what went
    wrong."""
    way = re.search(rf"https://{re.escape(SITE)}(/password/\S+/)", said)
    if way is None:
        return "no link was printed"
    new = json.dumps({"entry_id": str(uuid.uuid4())} | NEW)
    done = inside(f"python3 -c {shlex.quote(USED)} {SITE} {way[1]} {shlex.quote(new)}")
    print(done.stdout, flush=True)
    return f"the site cannot be used: {done.stdout[-500:]}" if done.returncode else ""


def main() -> int:
    text = (HERE / "docs/run-it.md").read_text(encoding="utf-8")
    kept, failed = "", ""
    try:
        made()
        for block in BLOCK.findall(text):
            print(re.sub(r"^", "  ", block.rstrip(), flags=re.M), flush=True)
            # What a block sets the next one has, as at one prompt.
            given = "export PIP_CERT=/trusted.pem; . /tmp/prompt 2>/dev/null || true\n"
            keeps = "\ndeclare -p | grep -E '^declare -[-x]+ (SITE|OWNER|APP|CHECK|BACKUP|NIVELUM_ENV)=' >/tmp/prompt"
            done = inside(given + block + keeps)
            print(re.sub(r"^", "    > ", done.stdout.rstrip()[-3000:], flags=re.M), flush=True)
            if done.returncode:
                failed = f"ended with {done.returncode}"
                break
            if "first_crew" in block and (failed := used(done.stdout)):
                break
            kept += done.stdout
        right = not failed and "the drill brought every record back" in kept and "1 jobs" in kept
        print("1 passed, 0 failed" if right else f"0 passed, 1 failed {failed}")
        return 0 if right else 1
    finally:
        gone()


if __name__ == "__main__":
    sys.exit(main())
