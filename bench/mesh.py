"""A million triangles: Keeve's bounded reader beside a bare load and signed volume, in one run.

.keeve/venv/bin/python bench/mesh.py
"""

import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy
import trimesh

from keeve.formats.reading.bounded import MESH_SECONDS, BoundedReader

BARE = """
import sys, resource, numpy, trimesh
mesh = trimesh.load(sys.argv[1], file_type="stl", force="mesh")
a, b, c = (numpy.asarray(mesh.triangles)[:, i] for i in range(3))
print(numpy.einsum("ij,ij->", a, numpy.cross(b, c)) / 6)
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""


def main() -> None:
    wave = trimesh.creation.icosphere(subdivisions=8, radius=100)  # 1 310 720 triangles
    wave.vertices *= 1 + 0.05 * numpy.sin(wave.vertices[:, :1] / 7)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "model.stl"
        wave.export(str(path))
        print(f"{len(wave.faces)} triangles, {path.stat().st_size / 1e6:.0f} MB")
        bare, keeve = [], []
        for _ in range(3):
            began = time.perf_counter()
            said = subprocess.run(
                [sys.executable, "-c", BARE, str(path)], capture_output=True, text=True, check=True
            ).stdout
            bare.append(time.perf_counter() - began)
            began = time.perf_counter()
            reading = BoundedReader("stl", path, most_seconds=MESH_SECONDS)
            reading.done.wait()
            keeve.append(time.perf_counter() - began)
            assert reading.result is not None, reading.faults
        volume, bare_kb = float(said.split()[0]), int(said.split()[-1])
        print(f"bare trimesh   {min(bare):6.2f} s   {bare_kb / 1000:6.0f} MB   volume {volume:.6g}")
        print(
            f"bounded reader {min(keeve):6.2f} s   {reading.peak_bytes / 1e6:6.0f} MB   volume {reading.result['volume']:.6g}"
        )
        print(f"ratio          {min(keeve) / min(bare):6.2f}   (must stay under 2)")


main()
