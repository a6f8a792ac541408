"""The commands' shared parts."""

import fcntl
import json
import os
import random
import re
import shutil
import signal
import subprocess
import sys
import time
import urllib.request
import zipfile
from pathlib import Path

import psycopg
import pytest

ROOT = Path(__file__).parents[1]


def test_stopping_a_cluster_never_touches_a_process_that_is_not_its_own(tmp_path: Path) -> None:
    bystander = subprocess.Popen(["sleep", "30"])
    try:
        data = tmp_path / "var" / "data"
        data.mkdir(parents=True)
        (data / "postmaster.pid").write_text(f"{bystander.pid}\n")
        script = f". {ROOT}/bin/parts/postgres.sh; stop_cluster var"
        subprocess.run(["bash", "-euc", script], cwd=tmp_path, check=True, timeout=20)
        assert bystander.poll() is None
        (data / "postmaster.pid").unlink()
        subprocess.run(["bash", "-euc", script], cwd=tmp_path, check=True, timeout=20)
    finally:
        bystander.terminate()
        bystander.wait()


def test_a_second_start_beside_the_first_says_where_the_first_is(tmp_path: Path) -> None:
    for part in ("bin", "requirements"):
        (tmp_path / part).symlink_to(ROOT / part)
    text = (ROOT / "bin/start").read_text().replace('$(dirname "$(readlink -f "$0")")/..', str(tmp_path))
    (tmp_path / "var").mkdir()
    (tmp_path / "var/address").write_text("http://127.0.0.1:8000/")
    with (tmp_path / "var/start.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        done = subprocess.run(
            ["bash", "-c", text, "start"], cwd=tmp_path, capture_output=True, text=True, check=False, timeout=20
        )
    assert done.returncode == 1 and "http://127.0.0.1:8000/" in done.stderr


def test_lock_files_name_no_address() -> None:
    for file in [*ROOT.glob("requirements/*.txt"), ROOT / "package-lock.json"]:
        text = file.read_text()
        assert not re.search(r'"resolved"|--(extra-)?index-url|--find-links', text), file


def part(script: str, folder: Path, **environment: str) -> subprocess.Popen:
    """The commands' parts at work in a folder, as a group of processes of its own."""
    parts = "".join(
        f". {ROOT}/bin/parts/{name}.sh; " for name in ("packages", "python", "postgres", "node", "server")
    )
    return subprocess.Popen(
        ["bash", "-euc", parts + script], cwd=folder, env=os.environ | environment, start_new_session=True,
        stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True,
    )  # fmt: skip


def said(process: subprocess.Popen) -> str:
    return process.communicate(timeout=300)[0]


def broken_off(script: str, folder: Path, times: int, chance: random.Random) -> None:
    """A step of set-up, killed at random moments of it, sometimes by Ctrl-C and sometimes for good."""
    began = time.monotonic()
    whole = part(script, folder)
    whole.wait(300)
    lasts = time.monotonic() - began
    for kill in [signal.SIGINT, signal.SIGKILL] * (times // 2):
        for made in (folder / "var/venv", folder / "var/postgres", folder / "node_modules"):
            if chance.random() < 0.5:  # from nothing, or from what the last one has left
                shutil.rmtree(made, ignore_errors=True)
        step = part(script, folder)
        time.sleep(chance.uniform(0, lasts))
        os.killpg(step.pid, kill)
        step.communicate()


def test_an_environment_broken_off_at_any_moment_is_whole_after_the_next_start(tmp_path: Path) -> None:
    pinned = (ROOT / "requirements/runtime.txt").read_text()
    one = re.search(r"^segno==.*?(?=^\S)", pinned, re.M | re.S)[0]
    (tmp_path / "requirements").mkdir()
    (tmp_path / "requirements/tiny.txt").write_text(one)
    shutil.copy(ROOT / "requirements/installer.txt", tmp_path / "requirements")
    (tmp_path / "var").mkdir()
    step = "python_environment tiny"
    broken_off(step, tmp_path, 2, random.Random(18))
    done = part(f"{step}; $python -m pip --version; $python -c 'import segno; print(segno.__version__)'", tmp_path)
    text = said(done)
    assert done.returncode == 0 and re.search(r"^pip \d", text, re.M) and re.search(r"^\d+\.\d+", text, re.M), text


def test_build_tools_broken_off_at_any_moment_are_whole_after_the_next_run(tmp_path: Path) -> None:
    known = json.loads((ROOT / "package-lock.json").read_text())
    one = {"devDependencies": {"idb": known["packages"][""]["devDependencies"]["idb"]}}
    packages = {"": one, "node_modules/idb": known["packages"]["node_modules/idb"]}
    (tmp_path / "package.json").write_text(json.dumps(one))
    (tmp_path / "package-lock.json").write_text(json.dumps(known | {"packages": packages}))
    broken_off("node_tools", tmp_path, 2, random.Random(16))
    # The worst moment of all: what tells npm that a package is there, and nothing else of it.
    idb = tmp_path / "node_modules/idb"
    said(part("node_tools", tmp_path))
    for written_last in (".whole", ".package-lock.json"):
        (tmp_path / "node_modules" / written_last).unlink()
    shutil.rmtree(idb / "build")
    done = part("node_tools; node_tools", tmp_path)
    assert said(done).count("Installing") == 1 and done.returncode == 0
    assert files(idb) == files(ROOT / "node_modules/idb")


def files(folder: Path) -> dict[str, bytes]:
    return {str(f.relative_to(folder)): f.read_bytes() for f in folder.rglob("*") if f.is_file()}


def test_an_installation_of_packages_that_was_broken_off_is_finished_before_the_next(tmp_path: Path) -> None:
    """With stand-ins for the machine's own commands: a test installs nothing."""
    stand_ins = {
        "id": "echo 0",
        "dpkg-query": "[ -e half ] || [ ! -e there ] || echo ok installed",
        "dpkg": 'echo "dpkg $*" >>log; if [ "$1" = --audit ]; then [ ! -e half ] || echo half; else rm -f half; fi',
        "apt-get": 'echo "apt-get $*" >>log; [ ! -e half ] || exit 100; [ "$1" = update ] || : >there',
    }
    for name, does in stand_ins.items():
        (tmp_path / name).write_text(f"#!/bin/bash\n{does}\n")
        (tmp_path / name).chmod(0o755)
    (tmp_path / "half").touch()
    done = part("need_packages a-package; need_packages a-package", tmp_path, PATH=f"{tmp_path}:{os.environ['PATH']}")
    assert said(done) == "Installing Debian packages: a-package\n" and done.returncode == 0
    log = (tmp_path / "log").read_text().splitlines()
    assert log[:3] == ["dpkg --audit", "dpkg --configure -a", "apt-get update -qq"]
    assert len(log) == 4 and log[3].endswith(" a-package") and "Lock::Timeout" in log[3]


def test_a_cluster_broken_off_at_any_moment_is_whole_after_the_next_start(tmp_path: Path) -> None:
    tmp_path.chmod(0o755)
    step = f"python={sys.executable}; serving_cluster var/postgres"
    try:
        broken_off(f"{step}; stop_cluster var/postgres", tmp_path, 6, random.Random(81))
        done = part(f'{step}; echo "$DATABASE_URL"; echo "$NIVELUM_CHECK_URL"', tmp_path)
        text = said(done)
        assert done.returncode == 0, text
        application, check = re.findall(r"^postgres://\S+", text, re.M)
        with psycopg.connect(application) as database:
            rights = database.execute(
                "SELECT current_user, rolsuper, rolcreatedb, rolcreaterole FROM pg_roles WHERE rolname = current_user"
            )
            assert rights.fetchone() == ("nivelum_app", False, False, False)
        with psycopg.connect(check) as server, pytest.raises(psycopg.OperationalError, match="permission denied"):
            assert server.execute("SELECT rolsuper FROM pg_roles WHERE rolname = current_user").fetchone() == (False,)
            psycopg.connect(re.sub(r"template1$", "postgres", check))
    finally:
        part("stop_cluster var/postgres", tmp_path).wait(60)


@pytest.mark.parametrize(
    ("script", "says"),
    [
        ("room_for /proc/nowhere", "cannot be written: is the checkout read-only"),
        ("LEAST_FREE=999999999 room_for $PWD/var", "MB are free where"),
        ("mkdir -p var/data; echo 9 >var/data/PG_VERSION; postgres_programs $PWD/var", "Install postgresql-9"),
        ("POSTGRES_FOLDER=/nowhere postgres_programs", "are not under /nowhere"),
    ],
)
def test_what_stands_in_the_way_is_said_in_our_words(tmp_path: Path, script: str, says: str) -> None:
    done = part(script, tmp_path)
    text = said(done)
    assert done.returncode == 1 and says in text and "Permission denied" not in text, text


def answers(port: str) -> bool:
    try:
        with urllib.request.urlopen(f"http://127.0.0.1:{port}/signal/", timeout=5) as answer:
            return answer.status == 204
    except OSError:
        return False


def test_a_server_that_outlived_its_command_gives_its_port_back_and_asked_twice_everything_stops(tmp_path) -> None:
    checkout = tmp_path / "checkout"
    checkout.mkdir()
    tmp_path.chmod(0o755)
    shutil.copytree(ROOT / "bin", checkout / "bin")
    (checkout / "src").symlink_to(ROOT / "src")
    (checkout / "bin/parts/python.sh").write_text(f"python_environment() {{ python={sys.executable}; }}")
    ours = ("NIVELUM_", "DATABASE_", "DJANGO_", "PYTEST")
    environment = {name: value for name, value in os.environ.items() if not name.startswith(ours)}

    def started() -> tuple[subprocess.Popen, str]:
        (checkout / "var/address").unlink(missing_ok=True)
        running = subprocess.Popen([checkout / "bin/start", "--empty"], env=environment, start_new_session=True,
                                   stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)  # fmt: skip
        ends = time.monotonic() + 240
        while not (checkout / "var/address").exists() and running.poll() is None and time.monotonic() < ends:
            time.sleep(0.2)
        return running, (checkout / "var/port").read_text()

    running = None
    try:
        first, port = started()
        server = (checkout / "var/server.pid").read_text()
        first.kill()
        first.wait()
        assert answers(port)  # the old one goes on, from a database that the next start takes away
        running, again = started()
        assert again == port and answers(port)
        assert (checkout / "var/server.pid").read_text() != server and not Path(f"/proc/{server.strip()}").exists()
        running.send_signal(signal.SIGTERM)
        running.send_signal(signal.SIGTERM)
        running.wait(60)
        assert not answers(port)
        left = part("cluster_pid $PWD/var/postgres || server_pid || echo nothing", checkout)
        assert said(left).strip() == "nothing"
    finally:
        if running and running.poll() is None:
            running.terminate()
            running.wait(60)
        part("stop_server; stop_cluster var/postgres", checkout).wait(60)


def test_the_craft_by_itself_is_a_package_with_its_command_and_its_data(tmp_path: Path) -> None:
    for part_of in ("pyproject.toml", "README.md"):
        shutil.copy(ROOT / part_of, tmp_path)
    shutil.copytree(ROOT / "src/groundwork", tmp_path / "src/groundwork")
    wheel = [sys.executable, "-m", "pip", "wheel", "-q", "--no-deps", "-w", str(tmp_path / "out"), str(tmp_path)]
    subprocess.run(wheel, check=True, capture_output=True)
    (built,) = (tmp_path / "out").glob("*.whl")
    with zipfile.ZipFile(built) as archive:
        names = set(archive.namelist())
        commands = next(archive.read(name).decode() for name in names if name.endswith("entry_points.txt"))
    wanted = {str(f.relative_to(ROOT / "src")) for f in (ROOT / "src/groundwork").rglob("*") if f.is_file()}
    assert {name for name in wanted if "__pycache__" not in name} <= names
    assert not [name for name in names if name.startswith("nivelum/")]
    assert re.search(r"^nivelum *= *groundwork\.cli:main$", commands, re.M)
