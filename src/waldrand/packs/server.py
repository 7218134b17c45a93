"""A server that answers for a pack's graphs, asked in the Open Inference Protocol (version 2) over HTTP or gRPC."""

from __future__ import annotations

import os
import re
import threading
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any, TypeVar

import numpy as np

from ..core.refused import Refused
from ..core.worded import worded

#: What a server says that it is, and the version of it; a server of another version is not asked further.
PLATFORM, VERSION = "waldrand-pack", 1
#: Input and output of the model that gives a pack's own files.
FILE, CONTENT = "file", "content"
#: The protocol's types, NumPy's and onnxruntime's.
TYPES = {
    "FP32": (np.float32, "tensor(float)"),
    "FP16": (np.float16, "tensor(float16)"),
    "FP64": (np.float64, "tensor(double)"),
    "INT64": (np.int64, "tensor(int64)"),
    "INT32": (np.int32, "tensor(int32)"),
    "INT8": (np.int8, "tensor(int8)"),
    "UINT8": (np.uint8, "tensor(uint8)"),
    "BOOL": (np.bool_, "tensor(bool)"),
}
#: Seconds to wait for a connection, and for an answer where nothing else is said.
CONNECTING, WAIT = 5.0, 120.0
T = TypeVar("T")


@dataclass(frozen=True)
class Access:
    """How a server is reached. token: sent as a bearer's; certificates: a file of those that are trusted besides the system's, ""
    for none; wait: seconds for an answer."""

    token: str = ""
    certificates: str = ""
    wait: float = WAIT


def access_of_environment() -> Access:
    """What WALDRAND_TOKEN, WALDRAND_CERTIFICATES and WALDRAND_WAIT say.

    Raises:
        Refused: the time is none.
    """
    said = os.environ.get("WALDRAND_WAIT") or str(WAIT)
    try:
        wait = float(said)
    except ValueError:
        wait = -1.0
    if not 0 < wait < 1e6:
        raise Refused(worded("WALDRAND_WAIT is {0}: say seconds, like 120.", said))
    return Access(os.environ.get("WALDRAND_TOKEN", ""), os.environ.get("WALDRAND_CERTIFICATES", ""), wait)


@dataclass(frozen=True)
class Address:
    """scheme: http, https, grpc or grpcs; at: host, port and perhaps a path; name: of the pack there."""

    scheme: str
    at: str
    name: str

    @property
    def server(self) -> str:
        return f"{self.scheme}://{self.at}"


def is_address(text: str) -> bool:
    """Whether a pack's place is written as a server's address."""
    return re.match(r"[a-z]+://", text) is not None


def address_of(text: str) -> Address:
    """
    Raises:
        Refused: it is no address of a pack on a server.
    """
    match = re.fullmatch(r"(https?|grpcs?)://([^/\s]+(?:/[^/\s]+)*)/([^/\s]+)/?", text)
    if match is None:
        raise Refused(
            worded("{0} is no address of a pack on a server: write one like http://host:port/NAME, or grpc://host:port/NAME.", text)
        )
    return Address(match[1], match[2], match[3])


@dataclass(frozen=True)
class ServedPort:
    """An input or output, as `Port` says."""

    name: str
    datatype: str
    shape: tuple[int, ...]

    @property
    def type(self) -> str:
        return TYPES[self.datatype][1]


@dataclass(frozen=True)
class Described:
    """What a server says of a model."""

    platform: str
    inputs: tuple[ServedPort, ...]
    outputs: tuple[ServedPort, ...]


class Server:
    """Asks a server; each thread by a connection of its own. One that broke is made anew, once, before anything is refused.

    Raises:
        Refused: the package for it is not installed.
    """

    def __init__(self, address: Address, access: Access) -> None:
        self.address, self._access = address, access
        self._own = threading.local()
        try:
            import tritonclient.grpc
            import tritonclient.http
        except ImportError as error:
            raise Refused('Packs on servers need the package “tritonclient”: pip install "waldrand[servers]".') from error
        self._grpc = address.scheme.startswith("grpc")
        self._kind: Any = tritonclient.grpc if self._grpc else tritonclient.http
        self._headers = {"authorization": f"Bearer {access.token}"} if access.token else {}
        self._patience = {"client_timeout": access.wait} if self._grpc else {}
        self._binary: bool | None = None

    # --- connections

    def _made(self) -> Any:
        a, secure = self.address, self.address.scheme.endswith("s")
        if self._grpc:
            kept = Path(self._access.certificates).read_bytes() if secure and self._access.certificates else None
            return self._kind.InferenceServerClient(a.at, ssl=secure, **self._certificates(kept))
        told: dict[str, Any] = {"connection_timeout": CONNECTING, "network_timeout": self._access.wait}
        if secure:
            import gevent.ssl

            told |= {"ssl": True, "ssl_context_factory": gevent.ssl.create_default_context}
            if self._access.certificates:
                told["ssl_options"] = {"ca_certs": self._access.certificates}
        return self._kind.InferenceServerClient(a.at, **told)

    def _certificates(self, kept: bytes | None) -> dict[str, Any]:
        if kept is None:
            return {}
        import grpc

        return {"creds": grpc.ssl_channel_credentials(kept)}

    def _asked(self, what: str, ask: Callable[[Any], T]) -> T:
        """What a connection answers; a broken one is replaced once, for a server may have begun anew since it was made."""
        fresh = getattr(self._own, "client", None) is None
        try:
            if fresh:
                self._own.client = self._made()
            return ask(self._own.client)
        except Exception as error:  # three packages below raise kinds of their own
            self._own.client = None
            if not fresh and _broken(error):
                return self._asked(what, ask)
            raise Refused(self._said(error, what)) from error

    def _said(self, error: Exception, what: str) -> str:
        """An error in a sentence."""
        at, text = self.address.server, str(error) or type(error).__name__
        low, first = text.lower(), text.splitlines()[0][:200]
        if any(sign in low for sign in ("401", "403", "unauth", "permission", "forbidden")):
            return worded("The server at {0} wants a token, or another one: say it in the settings, or in WALDRAND_TOKEN.", at)
        if any(sign in low for sign in ("certificate", "ssl", "handshake", "tls")):
            return worded(
                "The server at {0} cannot be trusted: {1} WALDRAND_CERTIFICATES names a file of certificates to trust.", at, first
            )
        if isinstance(error, TimeoutError) or any(sign in low for sign in ("timed out", "timeout", "deadline")):
            return worded("The server at {0} did not answer within {1:g} s.", at, self._access.wait)
        if isinstance(error, OSError) or _broken(error):
            return worded("No server answers at {0}. Is it running, and is the address right? What was done before is kept.", at)
        if any(sign in low for sign in ("not found", "404", "unknown model", "no model")):
            return worded("The server at {0} has no {1}, or another version of it by now: open the pack again.", at, what)
        return worded("The server at {0} could not answer for {1}: {2}", at, what, first)

    # --- what is asked

    def described(self, model: str, version: str = "") -> Described:
        """A model's inputs and outputs.

        Raises:
            Refused: there is no such server, or no such model.
        """
        more = {"as_json": True} if self._grpc else {}
        told = self._asked(model, lambda c: c.get_model_metadata(model, version, headers=self._headers, **more, **self._patience))
        try:
            ports = [
                tuple(ServedPort(str(p["name"]), str(p["datatype"]), tuple(int(n) for n in p.get("shape", ()))) for p in told.get(of, ()))
                for of in ("inputs", "outputs")
            ]
            if any(p.datatype not in TYPES for several in ports for p in several):
                raise ValueError("a type that is not known")
            if not all(ports):
                # It is still loading.
                raise Refused(worded("The server at {0} is not ready with {1} yet: try again in a moment.", self.address.server, model))
            return Described(str(told.get("platform", "")), *ports)
        except Refused:
            raise
        except (KeyError, TypeError, ValueError, AttributeError) as error:
            raise Refused(worded("The server at {0} tells nonsense of {1}: {2}", self.address.server, model, error)) from error

    def infer(self, model: str, version: str, ports: Described, feeds: Mapping[str, Any], outputs: Sequence[str]) -> list[np.ndarray]:
        """Named outputs of a model.

        Raises:
            Refused: the server does not answer, or answers nonsense.
        """
        binary = self._sends_bytes()
        inputs = []
        for port in ports.inputs:
            if port.name in feeds:
                value: np.ndarray = np.ascontiguousarray(feeds[port.name], TYPES[port.datatype][0])
                one = self._kind.InferInput(port.name, list(value.shape), port.datatype)
                one.set_data_from_numpy(value, **binary)
                inputs.append(one)
        wanted = [self._kind.InferRequestedOutput(name, **binary) for name in outputs]
        told = self._asked(model, lambda c: c.infer(model, inputs, version, wanted, headers=self._headers, **self._patience))
        stated = {p.name: p for p in ports.outputs}
        return [self._checked(model, stated[name], told) for name in outputs]

    def _sends_bytes(self) -> dict[str, bool]:
        """How numbers go over HTTP: as bytes where the server says that it reads them, else written out."""
        if self._grpc:
            return {}
        if self._binary is None:
            said = self._asked(self.address.name, lambda c: c.get_server_metadata(headers=self._headers))
            self._binary = "binary_tensor_data" in (said.get("extensions") or ())
        return {"binary_data": self._binary}

    def _checked(self, model: str, port: ServedPort, told: Any) -> np.ndarray:
        """An output of the type and shape that the server stated, of numbers."""
        try:
            value = np.asarray(told.as_numpy(port.name))
            fits = len(value.shape) == len(port.shape) and all(n in (-1, m) for n, m in zip(port.shape, value.shape, strict=True))
            if fits and value.dtype == TYPES[port.datatype][0] and np.isfinite(value).all():
                return value
        except (TypeError, ValueError) as error:
            raise Refused(worded("The server at {0} answered nonsense for {1}.", self.address.server, model)) from error
        raise Refused(worded("The server at {0} answered nonsense for {1}.", self.address.server, model))


def _broken(error: Exception) -> bool:
    """Whether there was no connection, or it broke."""
    low = f"{type(error).__name__} {error}".lower()
    signs = ("unavailable", "connection", "refused", "reset", "closed", "broken pipe", "socket", "eof", "name resolution")
    return any(sign in low for sign in signs)


@dataclass(frozen=True, eq=False)
class ServedSession:
    """A graph on a server, as `Session` says."""

    server: Server
    model: str
    version: str
    ports: Described

    def get_inputs(self) -> Sequence[ServedPort]:
        return self.ports.inputs

    def get_outputs(self) -> Sequence[ServedPort]:
        return self.ports.outputs

    def run(self, names: Sequence[str] | None, feeds: Mapping[str, Any]) -> list[np.ndarray]:
        wanted = [p.name for p in self.ports.outputs] if names is None else list(names)
        return self.server.infer(self.model, self.version, self.ports, feeds, wanted)
