"""The commands' shared parts."""

import fcntl
import re
import subprocess
from pathlib import Path

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
