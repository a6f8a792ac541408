"""The production form whole on one machine: a proxy with TLS, two workers, PgBouncer, a store for photos, the
application's role without rights. Devices write, read, send photos and listen while each part in turn is killed and
started again. Prints the counts; fails unless every acknowledged entry and photo is there once, the chain is
unbroken, and news are on every screen within two seconds of a part's coming back. Started by `bin/whole`."""

import hashlib
import http.client
import io
import os
import random
import shutil
import signal
import socket
import ssl
import subprocess
import sys
import threading
import time
import urllib.parse
import uuid
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

import django
from PIL import Image

from tests.serving import PATIENCE, free_port
from tests.soak import Device

HERE = Path(os.environ["NIVELUM_VAR"])
SECONDS = float(os.environ.get("WHOLE_SECONDS", "60"))
DEVICES = int(os.environ.get("WHOLE_DEVICES", "6"))
WITHIN = 2.0
"""s: so soon after a part is back news are everywhere."""


STARTED: list["Part"] = []


class Part:
    """One part of the whole: started, killed without a word, waited for until it answers at its port."""

    def __init__(self, name: str, port: int, command: list[str], user: str = "", **environment: str) -> None:
        as_user = ["runuser", "-u", user, "--"] if user and os.geteuid() == 0 else []
        self.name, self.port, self.command = name, port, [*as_user, *command]
        self.environment = os.environ | environment
        STARTED.append(self)
        self.start()

    def start(self) -> None:
        said = (HERE / f"{self.name}.log").open("ab")
        self.running = subprocess.Popen(
            self.command, env=self.environment, stdout=said, stderr=said, start_new_session=True
        )  # fmt: skip
        self.wait()

    def wait(self) -> None:
        ends = time.monotonic() + PATIENCE
        while time.monotonic() < ends:
            if self.answers():
                return
            time.sleep(0.02)
        raise RuntimeError(f"{self.name} did not start: {(HERE / f'{self.name}.log').read_text()[-2000:]}")

    def answers(self) -> bool:
        try:
            socket.create_connection(("127.0.0.1", self.port), 1).close()
        except OSError:
            return False
        return True

    def kill(self) -> None:
        """All of it at once, whatever it has started."""
        with suppress(ProcessLookupError):
            os.killpg(self.running.pid, signal.SIGKILL)
        self.running.wait()


class Workers(Part):
    """The application, which is there once it says that it is ready."""

    def answers(self) -> bool:
        link = http.client.HTTPConnection("127.0.0.1", self.port, timeout=5)
        try:
            link.request("GET", "/health/ready", headers={"Host": "127.0.0.1"})
            return link.getresponse().status == 200
        except (OSError, http.client.HTTPException):
            return False
        finally:
            link.close()


@dataclass
class Phone(Device):
    """A device before the proxy, which proves who it is by a certificate."""

    tls: ssl.SSLContext | None = None
    photos: list[str] = field(default_factory=list)

    def link(self, port: int, timeout: float) -> http.client.HTTPConnection:
        return http.client.HTTPSConnection("localhost", port, timeout=timeout, context=self.tls)

    def says(self) -> dict[str, str]:
        return {"Host": f"localhost:{self.ports[0]}", "Referer": f"https://localhost:{self.ports[0]}/"}

    def work(self, until: float) -> None:
        while time.monotonic() < until:
            if self.number % 4 == 0 and random.random() < 0.3:
                self.picture()
            super().work(min(until, time.monotonic() + 1.0))

    def picture(self) -> None:
        """A photo no other device sends, until it is acknowledged."""
        out = io.BytesIO()
        Image.frombytes("RGB", (60, 40), random.randbytes(60 * 40 * 3)).save(out, "JPEG")
        name, ends = str(uuid.uuid4()), time.monotonic() + PATIENCE
        while time.monotonic() < ends:
            fields = {"entry_id": name, "stage": "laying", "caption": f"device {self.number}"}
            status = self.send_photo(f"/jobs/{self.job}/sign-offs/photos/", fields, out.getvalue())
            if status == 302:
                self.acknowledged.append(name)
                self.photos.append(name)
                return
            self.retried += 1
            time.sleep(0.3)
        self.refused.append("a photo was never acknowledged")


def pgbouncer(port: int) -> Part:
    """Connections handed on after each transaction, for the application's role alone."""
    where = urllib.parse.urlsplit(os.environ["DATABASE_URL"])
    (HERE / "users.txt").write_text(f'"{where.username}" "{where.password}"\n')
    (HERE / "pgbouncer.ini").write_text(
        f"[databases]\npostgres = host={where.hostname} port={where.port} dbname=postgres\n"
        f"[pgbouncer]\nlisten_addr = 127.0.0.1\nlisten_port = {port}\nunix_socket_dir =\nauth_type = scram-sha-256\n"
        f"auth_file = {HERE}/users.txt\npool_mode = transaction\ndefault_pool_size = 12\nmax_client_conn = 100\n"
        "server_login_retry = 1\nquery_wait_timeout = 8\n"
    )
    for name in ("users.txt", "pgbouncer.ini", "pgbouncer.log"):
        (HERE / name).touch()
        if os.geteuid() == 0:
            shutil.chown(HERE / name, "postgres")
    return Part(
        "pgbouncer", port, [shutil.which("pgbouncer") or "/usr/sbin/pgbouncer", f"{HERE}/pgbouncer.ini"], "postgres"
    )


def proxy(port: int, behind: int) -> Part:
    """nginx with TLS as docs/run/nginx.conf has it, on a certificate of its own."""
    subprocess.run(
        ["openssl", "req", "-x509", "-newkey", "rsa:2048", "-nodes", "-days", "2", "-subj", "/CN=localhost",
         "-addext", "subjectAltName=DNS:localhost", "-keyout", f"{HERE}/key.pem", "-out", f"{HERE}/cert.pem"],
        check=True, capture_output=True,
    )  # fmt: skip
    site = (Path(__file__).parents[1] / "docs/run/nginx.conf").read_text()
    for old, new in (
        ("/etc/ssl/nivelum/cert.pem", f"{HERE}/cert.pem"), ("/etc/ssl/nivelum/key.pem", f"{HERE}/key.pem"),
        ("listen 443 ssl", f"listen 127.0.0.1:{port} ssl"), ("nivelum.example", "localhost"),
        ("127.0.0.1:8000", f"127.0.0.1:{behind}"), ("listen 80;", f"listen 127.0.0.1:{free_port()};"),
    ):  # fmt: skip
        assert old in site, old
        site = site.replace(old, new)
    temporary = "".join(
        f"{each}_temp_path {HERE}/nginx-{each}; " for each in ("client_body", "proxy", "fastcgi", "uwsgi", "scgi")
    )
    (HERE / "nginx.conf").write_text(
        f"daemon off;\n{'user root;' if os.geteuid() == 0 else ''}\npid {HERE}/nginx.pid;\n"
        f"error_log {HERE}/nginx.log;\n"
        f"events {{}}\nhttp {{ access_log off; {temporary}\n{site}\n}}\n"
    )
    return Part(
        "nginx", port, [shutil.which("nginx") or "/usr/sbin/nginx", "-c", f"{HERE}/nginx.conf", "-p", str(HERE)]
    )


def main() -> int:
    try:
        return _main()
    finally:
        for part in STARTED:
            part.kill()


def _main() -> int:  # noqa: PLR0915 (told in order)
    ports = {name: free_port() for name in ("pool", "app", "tls", "store")}
    direct = os.environ["DATABASE_URL"]
    store = [sys.executable, "-m", "nivelum.watch.standin_store", str(HERE / "bucket"), str(ports["store"])]
    parts = {
        "store": Part("store", ports["store"], store),
        "pgbouncer": pgbouncer(ports["pool"]),
    }  # fmt: skip
    pooled = urllib.parse.urlsplit(direct)
    pooled = pooled._replace(netloc=pooled.netloc.rsplit(":", 1)[0] + f":{ports['pool']}").geturl()
    os.environ |= {
        "NIVELUM_HOSTS": f"localhost,127.0.0.1,localhost:{ports['tls']}", "NIVELUM_PROXIES": "1",
        "NIVELUM_ORIGINS": f"https://localhost:{ports['tls']}", "NIVELUM_SERVED_IN_THE_CLEAR": "no",
        "NIVELUM_S3_BUCKET": "photos", "NIVELUM_S3_ENDPOINT": f"http://127.0.0.1:{ports['store']}",
        "NIVELUM_S3_KEY": "x", "NIVELUM_S3_SECRET": "y", "NIVELUM_LISTEN_URL": direct, "NIVELUM_LOG_JSON": "yes",
        "NIVELUM_LOG_LEVEL": "INFO", "NIVELUM_METRICS_TOKEN": "counted",
        "NIVELUM_PYTHON": sys.executable,
    }  # fmt: skip
    serve = str(Path(__file__).parents[1] / "bin/serve")
    subprocess.run([serve, "set-up"], check=True)
    os.environ["DATABASE_URL"] = pooled
    owner = os.environ.pop("NIVELUM_OWNER_URL")
    parts["workers"] = Workers("workers", ports["app"], [serve, "--workers", "2", "--port", str(ports["app"])])
    parts["proxy"] = proxy(ports["tls"], ports["app"])
    os.environ["DATABASE_URL"] = direct
    os.environ["NIVELUM_OWNER_URL"] = owner
    django.setup()
    from django.db import connection

    from groundwork.record import first_fault
    from nivelum.exchange.services import record_data
    from nivelum.jobs.models import Entry
    from tests.conftest import make_world

    world = make_world()
    tls = ssl.create_default_context(cafile=str(HERE / "cert.pem"))
    roles = ["lead", "crew", "engineer"]
    phones = [
        Phone([ports["tls"]], str(world.job.id), world.people[roles[n % 3]].username, n, tls=tls)
        for n in range(DEVICES)
    ]
    _ready(phones[0])
    for phone in phones:
        phone.sign_in()
        phone.look()
    already = Entry.objects.filter(job=world.job).count()
    stop, until = threading.Event(), time.monotonic() + SECONDS
    listening = [threading.Thread(target=p.listen, args=(stop,), daemon=True) for p in phones]
    working = [threading.Thread(target=p.work, args=(until,), daemon=True) for p in phones[1:]]
    for thread in (*listening, *working):
        thread.start()

    def count() -> int:
        connection.close()
        connection.close_pool()  # the database may have been another since
        return Entry.objects.filter(job=world.job).count()

    late = []
    killed = ["proxy", "pgbouncer", "store", "a worker", "workers", "database"]
    for what in killed:
        time.sleep(max(0.0, (until - time.monotonic()) / (len(killed) + 1) - 2.0))
        took = _killed(what, parts, phones, count)
        print(f"{what}: killed and back, news everywhere {took:.2f} s after", flush=True)
        late += [what] if took > WITHIN else []
    for thread in working:
        thread.join(SECONDS + 2 * PATIENCE)
    connection.close()
    connection.close_pool()
    record = record_data(world.job)
    entries = record["entries"]
    ends = time.monotonic() + 20
    while time.monotonic() < ends and any(p.shown != len(entries) for p in phones):
        time.sleep(0.1)
    stop.set()
    counted = _counted(ports["app"])
    ids = [each["id"] for each in entries]
    acknowledged = [name for phone in phones for name in phone.acknowledged]
    missing = [name for name in acknowledged if ids.count(name) != 1]
    lost = [e["id"] for e in entries if "photo" in e["body"] and not _kept(world.job.id, e["body"]["photo"])]
    behind = [p.number for p in phones if p.shown != len(entries)]
    refused = [text for phone in phones for text in phone.refused]
    fault = first_fault(entries, record["head"])
    print(f"written and acknowledged {len(acknowledged)}, {sum(len(p.photos) for p in phones)} of them photos, "
          f"sends tried again {sum(p.retried for p in phones)}")  # fmt: skip
    print(f"entries {len(entries)} ({already} before), acknowledged and not there once {len(missing)}, photos lost "
          f"{len(lost)}, refused {len(refused)}, screens behind {len(behind)}, late {late}, "
          f"chain {fault or 'unbroken'}")  # fmt: skip
    for text in refused[:3]:
        print(" ", text)
    whole = b"django_http_requests_total_by_method" in counted and not any(
        (missing, lost, refused, behind, late, fault)
    )
    right = whole and len(acknowledged) > DEVICES
    print("1 passed, 0 failed" if right else "0 passed, 1 failed")
    return 0 if right else 1


def _killed(what: str, parts: dict[str, Part], phones: list[Phone], count: Callable[[], int]) -> float:
    """Kills a part and starts it again as what watches over it would; seconds from when it is back until what is then
    written is on every screen."""
    began = time.monotonic()
    if what == "database":
        subprocess.run(os.environ["TRIAL_RESTART"], shell=True, check=True)  # noqa: S602 (our own command)
    elif what == "a worker":
        children = subprocess.run(
            ["pgrep", "-P", str(parts["workers"].running.pid)], check=True, capture_output=True, text=True
        )  # fmt: skip
        os.kill(int(children.stdout.split()[-1]), signal.SIGKILL)  # whoever started it starts another
        parts["workers"].wait()
    else:
        parts[what].kill()
        parts[what].start()
    back = time.monotonic()
    print(f"{what}: back in {back - began:.1f} s", flush=True)
    writer = phones[0]
    writer.write()
    written = time.monotonic()
    newest = count()
    while any(phone.shown < newest for phone in phones):
        if time.monotonic() - back > PATIENCE:
            break
        time.sleep(0.02)
    return time.monotonic() - max(back, written)


def _ready(phone: Phone) -> None:
    ends = time.monotonic() + PATIENCE
    while time.monotonic() < ends:
        try:
            if b'"TheDatabase": "OK"' in (said := _asked(phone, "/health/ready")):
                return
        except OSError as error:
            said = str(error).encode()
        time.sleep(0.2)
    raise RuntimeError(f"it is not ready: {said!r}")


def _asked(phone: Phone, path: str) -> bytes:
    link = phone.link(phone.ports[0], 20)
    link.request("GET", path, headers=phone.says())
    return link.getresponse().read()


def _counted(port: int) -> bytes:
    link = http.client.HTTPConnection("127.0.0.1", port, timeout=20)
    link.request("GET", "/metrics", headers={"Host": "127.0.0.1", "Authorization": "Bearer counted"})
    return link.getresponse().read()


def _kept(job: object, photo: str) -> bool:
    file = HERE / "bucket" / "photos" / str(job) / f"{photo}.jpg"
    return file.is_file() and hashlib.sha256(file.read_bytes()).hexdigest() == photo


if __name__ == "__main__":
    sys.exit(main())
