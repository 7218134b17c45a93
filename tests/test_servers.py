"""Packs on servers, asked in the Open Inference Protocol: the same pixels, one request a step, what breaks, who is let in."""

from __future__ import annotations

import json
import ssl
import time
from collections import Counter
from dataclasses import replace
from importlib.util import find_spec
from pathlib import Path

import numpy as np
import pytest
import trustme
from by_hand import opened, run
from foreign_packs import KINDS, asked, exact, odd, sheet_for, two_colours
from servers import between, between_grpc, serving

from waldrand.cli import main
from waldrand.core.passes.plan import plan
from waldrand.core.passes.recipe import picture_recipe
from waldrand.core.passes.repeat import repeat
from waldrand.core.passes.request import Request
from waldrand.core.passes.run import run_take
from waldrand.core.passes.settings import PassSettings
from waldrand.core.passes.watch import Watch
from waldrand.core.refused import Refused
from waldrand.core.values.element import Element, SceneWords
from waldrand.core.values.outline import Outline
from waldrand.core.values.sheet import Sheet
from waldrand.files.layout import write_layout
from waldrand.packs import server as asking
from waldrand.packs.add_ons import AddOn, Merged
from waldrand.packs.onnx_pack import own_pack_folder
from waldrand.packs.opened import open_pack, where_of
from waldrand.packs.server import Access, Server, access_of_environment

# Not imported here: one process cannot have both ends' descriptions of the protocol.
pytestmark = pytest.mark.skipif(find_spec("mlserver") is None, reason="mlserver runs on Python 3.11 and 3.12")


@pytest.fixture(scope="module")
def folders(tmp_path_factory) -> dict[str, Path]:
    home = tmp_path_factory.mktemp("served")
    return {"eps": exact(home / "eps"), "odd": odd(home / "odd")}


@pytest.fixture(scope="module")
def served(folders):
    with serving(folders | {"lerchenmoor": own_pack_folder()}) as made:
        yield made


def far_apart(a: np.ndarray, b: np.ndarray) -> int:
    return int(np.abs(a.astype(int) - b).max())


# --- the same as here


@pytest.mark.parametrize("scheme", ["http", "grpc"])
def test_our_own_pack_paints_the_same_from_a_server(served, own, scheme):
    far = open_pack(served.at(scheme, "lerchenmoor"))
    # What is made side by side is the server's to say.
    assert far.info == replace(own.info, at_once=1)
    fox = Element(1, "fox", Outline("box", (60, 80, 200, 240)), "red fox")
    sheet = Sheet(256, 256, elements=(fox,), scene=SceneWords("meadow, dawn"))
    request = Request("compose", PassSettings(steps=3, seed=2))
    here, there = (run_take(plan(sheet, request, pack), pack, 2) for pack in (own, far))
    assert far_apart(here.pixels, there.pixels) <= 1
    assert here.recipe == there.recipe
    seen = [pack.finder.look(here.pixels[..., :3].astype(np.float32) / 255)[0] for pack in (own, far)]
    assert np.abs(seen[0] - seen[1]).max() < 1e-5
    assert far.read("red fox") == own.read("red fox")
    with pytest.raises(Refused, match="takes no add-ons"):
        far.use_add_ons([Merged(AddOn("one", "x", "", np.zeros(0, np.float32), {}, ""))])


@pytest.mark.parametrize("scheme", ["http", "grpc"])
@pytest.mark.parametrize("name", ["eps", "odd"])
@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_of_pass_is_the_same_from_a_server(served, folders, name, kind, scheme):
    packs = open_pack(folders[name]), open_pack(served.at(scheme, name))
    takes = [run_take(plan(sheet_for(kind), asked(kind), pack), pack, 3) for pack in packs]
    assert far_apart(takes[0].pixels, takes[1].pixels) <= 1
    assert takes[0].pixels.std() > 0


def test_what_was_made_here_repeats_there(served, folders):
    here, there = open_pack(folders["odd"]), open_pack(served.at("grpc", "odd"))
    sheet = sheet_for("inpaint")
    done = sheet.with_layer(run_take(plan(sheet, asked("inpaint"), here), here, 3).to_patch(sheet.next_key(), "made"))
    again = repeat(picture_recipe(done), there, [sheet.flatten()])
    assert far_apart(again.pixels, done.flatten()) <= 1
    assert not again.notes


def test_all_voices_of_a_step_are_one_request(served, monkeypatch):
    far, requests, ask = open_pack(served.at("grpc", "odd")), Counter[str](), Server.infer

    def counted(self, model, *told):
        requests[model] += 1
        return ask(self, model, *told)

    monkeypatch.setattr(Server, "infer", counted)
    p = plan(two_colours(), asked("compose"), far)
    assert p.method == "blend"
    run_take(p, far, 3)
    assert requests["odd.unet.onnx"] == p.request.settings.steps


def test_files_are_fetched_once(served, monkeypatch):
    open_pack(served.at("grpc", "lerchenmoor"))
    fetched, ask = [], Server.infer
    monkeypatch.setattr(Server, "infer", lambda self, model, *told: fetched.append(model) or ask(self, model, *told))
    open_pack(served.at("grpc", "lerchenmoor"))
    assert fetched == ["lerchenmoor"]


# --- by command, and in the window


def test_commands_take_an_address(served, tmp_path, capsys):
    layout = tmp_path / "l.toml"
    write_layout(layout, two_colours())
    at = served.at("grpc", "eps")
    assert main(["run", str(layout), "--pack", at, "--steps", "3", "--out", str(tmp_path / "out")]) == 0
    assert (tmp_path / "out" / "take-0.png").exists()
    assert main(["pack", "check", at]) == 0
    assert "exact eps 1 (CC0-1.0) works" in capsys.readouterr().out


def test_the_window_works_with_a_server_and_goes_on_after_it_died(app, folders, wait):
    with serving({"odd": folders["odd"]}) as dying, opened(open_pack(dying.at("http", "odd"))) as w:
        w.document.open(two_colours(), w.opening.blank_draft())
        w.passes.takes.setValue(1)
        run(w, wait)
        assert len(w.tray.takes) == 1
        before = w.document.sheet
        dying.kill()
        run(w, wait)
        assert "No server answers" in w.passes.status.text()
        assert w.document.sheet is before
        assert len(w.tray.takes) == 1
        dying.begin()
        run(w, wait)
        assert len(w.tray.takes) == 2


@pytest.mark.parametrize("scheme", ["http", "grpc"])
def test_a_server_that_dies_in_mid_pass_is_said_and_the_pass_runs_again_after_it_is_back(folders, scheme):
    with serving({"odd": folders["odd"]}) as dying:
        far = open_pack(dying.at(scheme, "odd"))
        p = plan(two_colours(), asked("compose"), far)
        whole = run_take(p, far, 3)

        def killing(step):
            if step.step == 2:
                dying.kill()

        with pytest.raises(Refused, match="No server answers"):
            run_take(p, far, 3, Watch(killing))
        dying.begin()
        assert (run_take(p, far, 3).pixels == whole.pixels).all()


# --- nonsense, time, versions


def nonsense(what: str):
    """Spoils what a denoiser answers."""

    def spoil(path: str, status: int, said: bytes) -> tuple[int, bytes]:
        if "unet" not in path or "infer" not in path:
            return status, said
        told = json.loads(said)
        out = told["outputs"][0]
        match what:
            case "shape":
                out["shape"][-1] -= 1
                out["data"] = out["data"][: int(np.prod(out["shape"]))]
            case "fewer":
                out["data"] = out["data"][:-1]
            case "none":
                told["outputs"] = []
            case "no number":
                out["data"][0] = None
            case "text":
                return 200, b"<html>hello</html>"
            case "error":
                return 500, b'{"error": "out of memory"}'
        return status, json.dumps(told).encode()

    return spoil


@pytest.mark.parametrize("what", ["shape", "fewer", "none", "no number", "text", "error"])
def test_nonsense_in_mid_pass_is_said(served, what):
    with between(served.http, spoils=nonsense(what)) as port:
        far = open_pack(f"http://127.0.0.1:{port}/odd")
        with pytest.raises(Refused, match=r"nonsense|could not answer|out of memory") as refused:
            run_take(plan(two_colours(), asked("compose"), far), far, 3)
    assert "\n" not in str(refused.value)


def test_a_server_that_takes_too_long_is_given_up(served):
    slow = [False]

    def late(path: str, status: int, said: bytes) -> tuple[int, bytes]:
        if slow[0]:
            time.sleep(3)
        return status, said

    with between(served.http, spoils=late) as port:
        far = open_pack(f"http://127.0.0.1:{port}/odd", access=Access(wait=1.0))
        slow[0] = True
        with pytest.raises(Refused, match="did not answer within 1 s"):
            run_take(plan(two_colours(), asked("compose"), far), far, 3)


@pytest.mark.parametrize(("platform", "says"), [("waldrand-pack-2", "another version"), ("something", "no pack of Waldrand's")])
def test_a_server_of_another_version_is_refused(served, platform, says):
    def other(path: str, status: int, said: bytes) -> tuple[int, bytes]:
        return status, said.replace(b"waldrand-pack-1", platform.encode())

    with between(served.http, spoils=other) as port, pytest.raises(Refused, match=says):
        open_pack(f"http://127.0.0.1:{port}/odd")


@pytest.mark.parametrize("scheme", ["http", "grpc"])
def test_another_pack_under_the_same_name_is_noticed(folders, tmp_path, scheme):
    with serving({"pack": folders["eps"]}) as changing:
        far = open_pack(changing.at(scheme, "pack"))
        changing.kill()
        changing.packs = {"pack": exact(tmp_path / "v", "v")}
        changing.begin()
        with pytest.raises(Refused, match="another version of it by now"):
            run_take(plan(two_colours(), asked("compose"), far), far, 3)


# --- who is let in


@pytest.fixture(scope="module")
def authority(tmp_path_factory):
    """Certificates of nobody's, and a file that trusts them."""
    made = trustme.CA()
    path = tmp_path_factory.mktemp("tls") / "ca.pem"
    made.cert_pem.write_to_path(str(path))
    return made.issue_cert("localhost", "127.0.0.1"), str(path)


def tried(address: str, access: Access) -> np.ndarray:
    far = open_pack(address, access=access)
    return run_take(plan(two_colours(), asked("compose"), far), far, 3).pixels


def test_token_and_tls_over_http(served, folders, authority):
    certificate, trusted = authority
    context = ssl.create_default_context(ssl.Purpose.CLIENT_AUTH)
    certificate.configure_cert(context)
    here = open_pack(folders["odd"])
    known = run_take(plan(two_colours(), asked("compose"), here), here, 3).pixels
    with between(served.http, "larch", context) as port:
        address = f"https://localhost:{port}/odd"
        assert far_apart(tried(address, Access("larch", trusted)), known) <= 1
        with pytest.raises(Refused, match="wants a token"):
            tried(address, Access("birch", trusted))
        with pytest.raises(Refused, match="cannot be trusted"):
            tried(address, Access("larch"))


def test_token_and_tls_over_grpc(served, folders, authority):
    certificate, trusted = authority
    key, chain = certificate.private_key_pem.bytes(), certificate.cert_chain_pems[0].bytes()
    here = open_pack(folders["odd"])
    known = run_take(plan(two_colours(), asked("compose"), here), here, 3).pixels
    with between_grpc(served.grpc, "larch", key, chain) as port:
        address = f"grpcs://localhost:{port}/odd"
        assert far_apart(tried(address, Access("larch", trusted)), known) <= 1
        with pytest.raises(Refused, match="wants a token"):
            tried(address, Access("birch", trusted))
        with pytest.raises(Refused):
            tried(address, Access("larch", wait=5.0))


def test_the_environment_says_how_a_server_is_reached(monkeypatch):
    monkeypatch.setenv("WALDRAND_TOKEN", "larch")
    monkeypatch.setenv("WALDRAND_WAIT", "7")
    assert access_of_environment() == Access("larch", "", 7.0)
    monkeypatch.setenv("WALDRAND_WAIT", "soon")
    with pytest.raises(Refused, match="say seconds"):
        access_of_environment()


# --- addresses


@pytest.mark.parametrize("text", ["http://host:1", "ftp://host:1/name", "http:///name", "grpc://host:1/a b"])
def test_what_is_no_address_is_refused_by_command(text, tmp_path, capsys):
    layout = tmp_path / "l.toml"
    write_layout(layout, two_colours())
    assert main(["run", str(layout), "--pack", text, "--out", str(tmp_path / "out")]) == 2
    assert "is no address of a pack" in capsys.readouterr().err
    assert not (tmp_path / "out").exists()


@pytest.mark.parametrize("scheme", ["http", "grpc"])
def test_where_nobody_answers_that_is_said(scheme, monkeypatch):
    monkeypatch.setattr(asking, "CONNECTING", 1.0)
    with pytest.raises(Refused, match="No server answers"):
        open_pack(f"{scheme}://127.0.0.1:9/odd", access=Access(wait=5.0))


@pytest.mark.parametrize("scheme", ["http", "grpc"])
def test_a_pack_that_is_not_there_is_said(served, scheme):
    with pytest.raises(Refused, match="has no other"):
        open_pack(served.at(scheme, "other"))


def test_a_folder_stays_a_folder():
    assert where_of("packs/one") == Path("packs/one")
    assert where_of("grpc://host:1/one") == "grpc://host:1/one"


def test_serving_needs_a_pack(tmp_path, capsys):
    assert main(["pack", "serve", str(tmp_path / "none")]) == 2
    assert "is no folder" in capsys.readouterr().err
    assert main(["pack", "serve", str(tmp_path)]) == 2
    assert "There is no pack" in capsys.readouterr().err
    assert main(["pack", "check"]) == 2
    assert main(["pack", "new", "http://host:1/x"]) == 2
