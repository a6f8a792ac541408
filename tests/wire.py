"""The way between a browser and a server, over real sockets: it can be cut, and lose an answer on its way back."""

import contextlib
import socket
import threading


class Wire:
    """Passes everything on to `port` of this machine. `cut` takes the signal away, `mend` brings it back; with `deaf`
    what is sent arrives and the answer to it does not. `came` counts the bytes of what was answered."""

    def __init__(self, port: int) -> None:
        self._to = port
        self._links: set[socket.socket] = set()
        self._lock = threading.Lock()
        self.whole = True
        self.deaf = False
        self.came = 0
        self._door = socket.create_server(("127.0.0.1", 0))
        self.port = self._door.getsockname()[1]
        threading.Thread(target=self._answer, daemon=True).start()

    @property
    def address(self) -> str:
        return f"http://127.0.0.1:{self.port}"

    def cut(self) -> None:
        self.whole = False
        with self._lock:
            links, self._links = self._links, set()
        for link in links:
            with contextlib.suppress(OSError):
                link.shutdown(socket.SHUT_RDWR)

    def mend(self) -> None:
        self.whole, self.deaf = True, False

    def close(self) -> None:
        self.cut()
        self._door.close()

    def _answer(self) -> None:
        while True:
            try:
                near, _from = self._door.accept()
            except OSError:
                return
            try:
                if not self.whole:
                    raise OSError
                far = socket.create_connection(("127.0.0.1", self._to), 20)
                far.settimeout(None)
            except OSError:
                near.close()
                continue
            with self._lock:
                self._links |= {near, far}
            threading.Thread(target=self._pass, args=(near, far, False), daemon=True).start()
            threading.Thread(target=self._pass, args=(far, near, True), daemon=True).start()

    def _pass(self, come: socket.socket, go: socket.socket, back: bool) -> None:
        with contextlib.suppress(OSError):
            while data := come.recv(65536):
                if back and self.deaf:
                    break
                go.sendall(data)
                self.came += len(data) if back else 0
        for end in (come, go):
            with contextlib.suppress(OSError):
                end.shutdown(socket.SHUT_RDWR)
            end.close()
        with self._lock:
            self._links -= {come, go}
