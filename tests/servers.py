"""Servers for the tests, on 127.0.0.1: a real one of packs, and what can stand between it and whoever asks."""

from __future__ import annotations

import http.client
import json
import signal
import socket
import ssl
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator, Mapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager, suppress
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

import grpc

from waldrand.core.refused import Refused
from waldrand.packs.opened import open_pack

CODE = "import sys, json; from pathlib import Path; from waldrand.far.serving import serve; p = json.loads(sys.argv[1]);"
CODE += 'serve({n: Path(f) for n, f in p.items()}, "127.0.0.1", int(sys.argv[2]), int(sys.argv[3]))'


def free_ports(count: int) -> list[int]:
    held = [socket.create_server(("127.0.0.1", 0)) for _ in range(count)]
    ports = [s.getsockname()[1] for s in held]
    for s in held:
        s.close()
    return ports


class Served:
    """A process that serves packs; it can be killed, and begun again at the same ports."""

    def __init__(self, packs: Mapping[str, Path]) -> None:
        self.packs = packs
        self.http, self.grpc = free_ports(2)
        self.begin()

    def at(self, scheme: str, name: str) -> str:
        return f"{scheme}://127.0.0.1:{self.http if scheme == 'http' else self.grpc}/{name}"

    def begin(self) -> None:
        told = json.dumps({name: str(folder) for name, folder in self.packs.items()})
        command = [sys.executable, "-c", CODE, told, str(self.http), str(self.grpc)]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        # It is ready as soon as every pack can be opened; a machine that is busy takes its time.
        for name in self.packs:
            for scheme in ("http", "grpc"):
                for _ in range(600):
                    with suppress(Refused):
                        open_pack(self.at(scheme, name))
                        break
                    assert self.process.poll() is None, "the server ended"
                    time.sleep(0.2)

    def kill(self) -> None:
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()


@contextmanager
def serving(packs: Mapping[str, Path]) -> Iterator[Served]:
    made = Served(packs)
    try:
        yield made
    finally:
        made.kill()


#: What a go-between does with an answer: its path, its status and what it says -> the status and what is said instead.
Spoils = Callable[[str, int, bytes], tuple[int, bytes]]


@contextmanager
def between(port: int, token: str = "", context: ssl.SSLContext | None = None, spoils: Spoils | None = None) -> Iterator[int]:
    """A port at which HTTP requests are handed on to another, and what is said back; without the token nothing is."""

    class Handler(BaseHTTPRequestHandler):
        protocol_version = "HTTP/1.1"

        def handed(self) -> None:
            body = self.rfile.read(int(self.headers.get("content-length") or 0))
            if token and self.headers.get("authorization") != f"Bearer {token}":
                status, said = 401, b'{"error": "Unauthorized"}'
            else:
                there = http.client.HTTPConnection("127.0.0.1", port)
                there.request(self.command, self.path, body, {"content-type": "application/json"})
                answer = there.getresponse()
                status, said = answer.status, answer.read()
                there.close()
            if spoils is not None:
                status, said = spoils(self.path, status, said)
            self.send_response(status)
            self.send_header("content-type", "application/json")
            self.send_header("content-length", str(len(said)))
            self.end_headers()
            with suppress(OSError):
                self.wfile.write(said)

        do_GET = do_POST = handed  # noqa: N815

        def log_message(self, *_: Any) -> None:
            """Nothing."""

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    server.daemon_threads = True
    if context is not None:
        server.socket = context.wrap_socket(server.socket, server_side=True)
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield server.server_address[1]
    finally:
        server.shutdown()
        server.server_close()


@contextmanager
def between_grpc(port: int, token: str, key: bytes, chain: bytes) -> Iterator[int]:
    """The same for gRPC over TLS."""

    class Handed(grpc.GenericRpcHandler):
        def service(self, details: Any) -> Any:
            def answer(request: bytes, context: Any) -> bytes:
                if ("authorization", f"Bearer {token}") not in [tuple(one) for one in details.invocation_metadata]:
                    context.abort(grpc.StatusCode.UNAUTHENTICATED, "no")
                with grpc.insecure_channel(f"127.0.0.1:{port}", options=[("grpc.max_receive_message_length", -1)]) as there:
                    return bytes(there.unary_unary(details.method)(request))

            return grpc.unary_unary_rpc_method_handler(answer)

    server = grpc.server(ThreadPoolExecutor(4), options=[("grpc.max_receive_message_length", -1)])
    server.add_generic_rpc_handlers((Handed(),))
    own = server.add_secure_port("localhost:0", grpc.ssl_server_credentials([(key, chain)]))
    server.start()
    try:
        yield own
    finally:
        server.stop(None).wait()
