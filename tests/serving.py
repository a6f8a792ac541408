"""Application processes for trials: real ones, which can be killed."""

import os
import signal
import socket
import subprocess
import sys
import time

PATIENCE = 60.0


def free_port() -> int:
    with socket.socket() as door:
        door.bind(("127.0.0.1", 0))
        return int(door.getsockname()[1])


class Process:
    """One application process on a port that stays its own."""

    def __init__(self, **environment: str) -> None:
        self.port = free_port()
        self.environment = os.environ | environment
        self.start()

    def start(self) -> None:
        served = ["-m", "nivelum.manage", "serve", "--port", str(self.port), "--log-level", "critical"]
        self.running = subprocess.Popen([sys.executable, *served], stderr=subprocess.DEVNULL, env=self.environment)
        ends = time.monotonic() + PATIENCE
        while time.monotonic() < ends:
            try:
                socket.create_connection(("127.0.0.1", self.port), 1).close()
                return
            except OSError:
                time.sleep(0.05)
        raise RuntimeError("the application did not start")

    def kill(self) -> None:
        self.running.send_signal(signal.SIGKILL)
        self.running.wait()
