"""Twenty devices on one job for a minute: some application processes, one of them killed and started again, the
database restarted once. Prints the counts; fails unless every acknowledged entry is there once, the chain is unbroken
and every screen has caught up. Started by `bin/soak`, which gives it a cluster of its own."""

import http.client
import io
import json
import os
import random
import re
import statistics
import subprocess
import sys
import threading
import time
import urllib.parse
import uuid
from dataclasses import dataclass, field

import django
from PIL import Image

from tests.serving import PATIENCE, Process

DEVICES = int(os.environ.get("SOAK_DEVICES", "20"))
SECONDS = float(os.environ.get("SOAK_SECONDS", "60"))
PROCESSES = int(os.environ.get("SOAK_PROCESSES", "2"))


@dataclass
class Device:
    """Someone's phone: it writes, reads, and keeps a screen that follows the news; it tries either process."""

    ports: list[int]
    job: str
    user: str
    number: int
    cookies: dict[str, str] = field(default_factory=dict)
    acknowledged: list[str] = field(default_factory=list)
    sent: int = 0
    retried: int = 0
    reads: int = 0
    refused: list[str] = field(default_factory=list)
    shown: int = 0
    heard: int = 0

    def link(self, port: int, timeout: float) -> http.client.HTTPConnection:
        """A connection to what answers at a port."""
        return http.client.HTTPConnection("127.0.0.1", port, timeout=timeout)

    def says(self) -> dict[str, str]:
        """Where it thinks it is."""
        return {"Host": "127.0.0.1"}

    def request(self, method: str, path: str, data: dict[str, str] | None = None) -> tuple[int, str]:
        last: Exception | None = None
        for port in random.sample(self.ports, len(self.ports)):
            link = self.link(port, 20)
            try:
                headers = {"Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items())} | self.says()
                body = None
                if data is not None:
                    body = urllib.parse.urlencode(data | {"csrfmiddlewaretoken": self.cookies.get("csrftoken", "")})
                    headers["Content-Type"] = "application/x-www-form-urlencoded"
                link.request(method, path, body, headers)
                answer = link.getresponse()
                content = answer.read()
                is_text = answer.headers.get_content_maintype() == "text"
                text = content.decode(errors="replace") if is_text else ""
                for line in answer.headers.get_all("Set-Cookie", []):
                    name, value = line.split(";")[0].split("=", 1)
                    self.cookies[name] = value
                return answer.status, text
            except (OSError, http.client.HTTPException) as error:
                last = error
                self.retried += 1
            finally:
                link.close()
        raise ConnectionError(str(last))

    def send_photo(self, path: str, data: dict[str, str], photo: bytes) -> int:
        edge = uuid.uuid4().hex
        data = data | {"csrfmiddlewaretoken": self.cookies.get("csrftoken", "")}
        parts = [f'--{edge}\r\nContent-Disposition: form-data; name="{k}"\r\n\r\n{v}\r\n' for k, v in data.items()]
        head = "".join(parts) + (
            f'--{edge}\r\nContent-Disposition: form-data; name="photo"; filename="a.jpg"\r\n'
            "Content-Type: image/jpeg\r\n\r\n"
        )
        body = head.encode() + photo + f"\r\n--{edge}--\r\n".encode()
        link = self.link(self.ports[0], 60)
        headers = {"Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items()),
                   "Content-Type": f"multipart/form-data; boundary={edge}"} | self.says()  # fmt: skip
        try:
            link.request("POST", path, body, headers)
            return link.getresponse().status
        except (OSError, http.client.HTTPException):
            return 0
        finally:
            link.close()

    def sign_in(self) -> None:
        self.request("GET", "/sign-in/")
        status, _text = self.request("POST", "/sign-in/", {"login": self.user, "password": "limestone"})
        assert status == 302, status

    def write(self) -> None:
        """One entry, sent until it is acknowledged; now and then once more for good measure."""
        name = str(uuid.uuid4())
        data = {"entry_id": name, "stage": "laying", "ask": "set", "answer": random.choice(("yes", "no")),
                "words": f"device {self.number}, {self.sent}"}  # fmt: skip
        self.sent += 1
        ends = time.monotonic() + PATIENCE
        while time.monotonic() < ends:
            try:
                status, text = self.request("POST", f"/jobs/{self.job}/sign-offs/looks/", data)
            except ConnectionError:
                status, text = 0, ""
            if status in (200, 302):
                if name not in self.acknowledged:
                    self.acknowledged.append(name)
                if random.random() < 0.9:
                    return
                continue
            if status in (400, 403, 404, 422):
                self.refused.append(f"{status} {re.sub('<[^>]+>', ' ', text)[-200:]}")
                return
            self.retried += 1
            time.sleep(0.3)
        self.refused.append("never acknowledged")

    def work(self, until: float) -> None:
        while time.monotonic() < until:
            if random.random() < 0.5:
                self.write()
            else:
                self.look()
            time.sleep(random.uniform(0.2, 1.2))

    def look(self) -> None:
        """The screen fetches what there is, as a page does when it hears of news."""
        try:
            status, text = self.request("GET", f"/jobs/{self.job}/company/")
            if random.random() < 0.3:
                self.request("GET", f"/jobs/{self.job}/sign-offs/now/?stage=laying")
        except ConnectionError:
            return
        if status == 200 and (found := re.search(r'data-known="(\d+)"', text)):
            self.shown = max(self.shown, int(found[1]))
            self.reads += 1

    def listen(self, stop: threading.Event) -> None:
        """Follows the stream, connecting again like a browser whenever it breaks."""
        turn = self.number
        while not stop.is_set():
            turn += 1
            link = self.link(self.ports[turn % len(self.ports)], 20)
            try:
                headers = {"Cookie": "; ".join(f"{k}={v}" for k, v in self.cookies.items())} | self.says()
                link.request("GET", f"/live/?known={self.shown}&job={self.job}", headers=headers)
                answer = link.getresponse()
                while not stop.is_set() and (line := answer.readline()):
                    if line.startswith(b"event: look"):
                        self.look()
                    elif line.startswith(b"data:") and b"number" in line:
                        number = json.loads(line[5:])["number"]
                        self.heard += 1
                        if number > self.shown:
                            self.look()
            except (OSError, http.client.HTTPException, ValueError):
                pass
            finally:
                link.close()
            stop.wait(1.0)


PDFS, PHOTOS = 8, 4
HEAVY_SECONDS = float(os.environ.get("SOAK_HEAVY_SECONDS", "30"))


def heavy(devices: list[Device]) -> bool:
    """Eight PDFs and four large photos under way at once, and what the others' readings take beside them: nobody gets
    a 503, and nineteen of twenty take less than ten times what they take when nothing else goes on."""
    noise = Image.frombytes("RGB", (3600, 2700), random.Random(18).randbytes(3600 * 2700 * 3))
    out = io.BytesIO()
    noise.save(out, "JPEG", quality=60)
    photo, ends, made = out.getvalue(), time.monotonic() + HEAVY_SECONDS, {"pdf": 0, "photo": 0}
    asked: list[tuple[int, float]] = []

    def timed(device: Device) -> tuple[int, float]:
        began = time.monotonic()
        data = {"entry_id": str(uuid.uuid4()), "stage": "laying", "ask": "set", "answer": "yes", "words": "steady"}
        status, _text = device.request("POST", f"/jobs/{device.job}/sign-offs/looks/", data)
        return status, time.monotonic() - began

    def pdf(device: Device) -> None:
        begun = ""
        while time.monotonic() < ends:
            status, text = device.request("GET", f"/jobs/{device.job}/record.pdf{begun}")
            made["pdf"] += status == 200
            begun = found[0] if status == 202 and (found := re.search(r"\?begun=\w+", text)) else ""
            time.sleep(1.0 if status == 202 else 0.1)

    def picture(device: Device) -> None:
        while time.monotonic() < ends:
            fields = {"entry_id": str(uuid.uuid4()), "stage": "laying", "caption": "noise"}
            made["photo"] += device.send_photo(f"/jobs/{device.job}/sign-offs/photos/", fields, photo) == 302

    def steady(device: Device) -> None:
        while time.monotonic() < ends:
            asked.append(timed(device))
            time.sleep(random.uniform(0.3, 0.9))

    quiet = statistics.median(timed(devices[0])[1] for _n in range(20))
    kinds = [pdf] * PDFS + [picture] * PHOTOS + [steady] * 6
    threads = [threading.Thread(target=kind, args=(device,)) for kind, device in zip(kinds, devices, strict=False)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    slowest = statistics.quantiles([seconds for _status, seconds in asked], n=20)[-1]
    refused = sum(status not in (200, 302) for status, _seconds in asked)
    print(f"beside {PDFS} PDFs ({made['pdf']} made) and {PHOTOS} large photos ({made['photo']} kept): "
          f"{len(asked)} readings, {refused} refused, p95 {slowest / quiet:.1f} x the unloaded median, "
          f"{quiet * 1000:.0f} ms")  # fmt: skip
    return not refused and slowest < 10 * quiet and made["pdf"] > 0 and made["photo"] > 0


def main() -> int:  # noqa: PLR0915 (a minute told in order)
    django.setup()
    from django.core.management import call_command

    from groundwork.record import first_fault
    from nivelum.exchange.services import record_data
    from nivelum.jobs.models import Entry
    from tests.conftest import make_world

    call_command("migrate", verbosity=0)
    world = make_world()
    processes = [Process() for _each in range(PROCESSES)]
    ports = [p.port for p in processes]
    roles = ["lead", "crew", "engineer"]
    devices = [Device(ports, str(world.job.id), world.people[roles[n % 3]].username, n) for n in range(DEVICES)]
    for device in devices:
        device.sign_in()
        device.look()
    steady = heavy(devices)
    already = Entry.objects.filter(job=world.job).count()
    stop, until = threading.Event(), time.monotonic() + SECONDS
    listeners = [threading.Thread(target=d.listen, args=(stop,), daemon=True) for d in devices]
    workers = [threading.Thread(target=d.work, args=(until,), daemon=True) for d in devices]
    for thread in (*listeners, *workers):
        thread.start()
    time.sleep(SECONDS / 3)
    processes[0].kill()
    print("one application process killed", flush=True)
    time.sleep(SECONDS / 20)
    processes[0].start()
    time.sleep(SECONDS / 5)
    subprocess.run(os.environ["TRIAL_RESTART"], shell=True, check=True)  # noqa: S602 (our own command)
    print("the database restarted", flush=True)
    for thread in workers:
        thread.join(SECONDS + 2 * PATIENCE)
    django.db.connections.close_all()
    django.db.connection.close_pool()
    record = record_data(world.job)
    entries = record["entries"]
    ends = time.monotonic() + 20
    while time.monotonic() < ends and any(d.shown != len(entries) for d in devices):
        time.sleep(0.2)
    stop.set()
    there = [e["id"] for e in entries]
    acknowledged = [name for d in devices for name in d.acknowledged]
    missing = [name for name in acknowledged if there.count(name) != 1]
    behind = [d.number for d in devices if d.shown != len(entries)]
    fault = first_fault(entries, record["head"])
    refused = [text for d in devices for text in d.refused]
    for process in processes:
        process.kill()
    print(f"devices {len(devices)}, seconds {SECONDS:g}, processes {len(processes)}")
    reads, heard, again = (sum(getattr(d, what) for d in devices) for what in ("reads", "heard", "retried"))
    print(
        f"written and acknowledged {len(acknowledged)}, reads {reads}, news heard {heard}, sends tried again {again}"
    )
    print(f"entries in the record {len(entries)} ({already} before), acknowledged and not there once {len(missing)}")
    print(f"written and never acknowledged {len(entries) - already - len(acknowledged)}, refused {len(refused)}")
    print(f"chain {'unbroken' if fault is None else fault}, screens behind {len(behind)}")
    for text in refused[:3]:
        print(" ", text)
    right = steady and not missing and fault is None and not behind and not refused and len(acknowledged) > DEVICES
    print("1 passed, 0 failed" if right else "0 passed, 1 failed")
    return 0 if right else 1


if __name__ == "__main__":
    sys.exit(main())
