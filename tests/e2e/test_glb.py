"""The delivered .glb in strangers' hands: the format's own validator and three.js."""

from __future__ import annotations

import functools
import http.server
import json
import subprocess
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page

from copper_sieve.cli.__main__ import main
from tests.conftest import MakePhoto

pytestmark = pytest.mark.browser
WEB = Path(__file__).resolve().parents[2] / "web"
_PAGE = """<!doctype html><link rel="icon" href="data:,"><script type="importmap">{"imports": {
  "three": "/three/build/three.module.js", "three/addons/": "/three/examples/jsm/"}}</script>
<script type="module">
import { GLTFLoader } from "three/addons/loaders/GLTFLoader.js";
import * as THREE from "three";
const { scene } = await new GLTFLoader().loadAsync("/wall.glb");
const mesh = scene.getObjectByProperty("isMesh", true);
const m = mesh.material;
const renderer = new THREE.WebGLRenderer();
const world = new THREE.Scene();
world.add(scene, new THREE.DirectionalLight());
renderer.render(world, new THREE.PerspectiveCamera());
const repeats = (t) => t.wrapS === THREE.RepeatWrapping;
const about = (t) => t && [t.image.width, t.image.height, t.colorSpace, repeats(t)];
window.found = {
  type: m.type, metalness: m.metalness, roughness: m.roughness,
  normalScale: m.normalScale.toArray(),
  map: about(m.map), normal: about(m.normalMap), occlusion: about(m.aoMap),
  rough: about(m.roughnessMap), metal: about(m.metalnessMap),
  oneTexture: m.aoMap.source === m.roughnessMap.source && m.roughnessMap === m.metalnessMap,
  size: new THREE.Box3().setFromObject(mesh).getSize(new THREE.Vector3()).toArray(),
};
</script>"""


@pytest.fixture
def glb(make_photo: MakePhoto, tmp_path: Path) -> Path:
    photo = make_photo("wall.png", size=(128, 64))
    target = ("--target", "gltf-metal-rough")
    assert main(["make", str(photo), *target, "--out", str(tmp_path / "out")]) == 0
    return tmp_path / "out" / "gltf-metal-rough" / "wall.glb"


@pytest.fixture
def site(glb: Path, tmp_path: Path) -> Iterator[str]:
    """A small site with three.js, the .glb and a page that loads it."""
    folder = tmp_path / "site"
    folder.mkdir()
    (folder / "index.html").write_text(_PAGE)
    (folder / "wall.glb").write_bytes(glb.read_bytes())
    (folder / "three").symlink_to(WEB / "node_modules" / "three")

    class Quiet(http.server.SimpleHTTPRequestHandler):
        def log_message(self, *_: object) -> None:
            pass

    handler = functools.partial(Quiet, directory=str(folder))
    with http.server.ThreadingHTTPServer(("127.0.0.1", 0), handler) as server:
        threading.Thread(target=server.serve_forever, daemon=True).start()
        yield f"http://127.0.0.1:{server.server_address[1]}/"
        server.shutdown()


def test_it_loads_in_three_without_a_word(page: Page, site: str) -> None:
    page.goto(site)  # the page fixture fails the test for any warning
    page.wait_for_function("window.found", timeout=60_000)
    found = page.evaluate("window.found")
    data = [128, 64, "", True]
    assert found["map"] == [128, 64, "srgb", True]
    assert (found["normal"], found["occlusion"], found["rough"], found["metal"]) == (data,) * 4
    assert found["oneTexture"]
    assert (found["type"], found["metalness"], found["roughness"]) == ("MeshStandardMaterial", 1, 1)
    assert found["normalScale"] == [1, 1]
    assert found["size"] == pytest.approx([1.0, 0.5, 0.0])


def test_its_validator_finds_nothing(glb: Path) -> None:
    program = """
const { validateBytes } = require("gltf-validator");
validateBytes(new Uint8Array(require("fs").readFileSync(process.argv[1])))
  .then((report) => console.log(JSON.stringify(report.issues)));"""
    done = subprocess.run(
        ["node", "-e", program, str(glb)], cwd=WEB, capture_output=True, text=True, check=True
    )
    issues = json.loads(done.stdout)
    assert (issues["numErrors"], issues["numWarnings"]) == (0, 0), issues["messages"]
