"""What is installed: the wheel, what must be in it, and the files that tell a desktop of the program."""

import re
import shutil
import subprocess
import sys
import unittest
import xml.etree.ElementTree as ElementTree
import zipfile
from configparser import ConfigParser
from pathlib import Path

import eager_owl
from eager_owl.solo.store import SUFFIX
from tests.support import FolderCase

ROOT = Path(__file__).resolve().parents[1]


class Wheel(FolderCase):
    def test_it_holds_all_that_the_program_reads(self) -> None:
        source = self.folder / "source"
        shutil.copytree(ROOT / "src", source / "src", ignore=shutil.ignore_patterns("__pycache__", "*.egg-info"))
        for name in ("pyproject.toml", "README.md", "LICENSE"):
            shutil.copy(ROOT / name, source)
        command = [
            sys.executable,
            "-m",
            "build",
            "--wheel",
            "--no-isolation",
            "--outdir",
            str(self.folder),
            str(source),
        ]
        done = subprocess.run(command, capture_output=True, text=True, timeout=300)
        self.assertEqual(done.returncode, 0, done.stderr)
        (wheel,) = self.folder.glob("*.whl")
        self.assertIn(f"eager_owl-{eager_owl.__version__}-", wheel.name)
        with zipfile.ZipFile(wheel) as archive:
            held = set(archive.namelist())
            scripts = archive.read(f"eager_owl-{eager_owl.__version__}.dist-info/entry_points.txt").decode()
        package = ROOT / "src/eager_owl"
        shipped = {
            str(path.relative_to(ROOT / "src"))
            for path in package.rglob("*")
            if path.is_file() and "__pycache__" not in path.parts and not path.name.endswith("~")
        }
        self.assertLessEqual(shipped, held)
        for kind in (".npz", ".otf", ".ttf", ".svg", ".flac", SUFFIX, "Cabin-LICENSE.txt"):
            self.assertTrue(any(name.endswith(kind) for name in held), kind)
        self.assertIn("eager-owl = eager_owl.cli:main", scripts)
        self.assertFalse([name for name in held if name.startswith("tests")])


class Desktop(unittest.TestCase):
    def test_the_version_stands_in_one_place_and_is_the_latest_told(self) -> None:
        latest = re.search(r"^## (\S+)", (ROOT / "CHANGELOG.md").read_text(), re.M)
        assert latest is not None
        self.assertEqual(latest[1], eager_owl.__version__)
        release = ElementTree.parse(ROOT / "data/eager-owl.metainfo.xml").find("releases/release")
        assert release is not None
        self.assertEqual(release.get("version"), eager_owl.__version__)

    def test_a_file_manager_opens_solos_and_recordings_with_it(self) -> None:
        entry = ConfigParser(interpolation=None)
        entry.read(ROOT / "data/eager-owl.desktop")
        self.assertEqual(entry["Desktop Entry"]["Exec"], "eager-owl %f")
        kinds = entry["Desktop Entry"]["MimeType"].split(";")
        told = ElementTree.parse(ROOT / "data/eager-owl-mime.xml").getroot()
        spaces = {"m": "http://www.freedesktop.org/standards/shared-mime-info"}
        kind, glob = told.find("m:mime-type", spaces), told.find("m:mime-type/m:glob", spaces)
        assert kind is not None and glob is not None
        self.assertIn(kind.get("type"), kinds)
        self.assertEqual(glob.get("pattern"), f"*{SUFFIX}")


if __name__ == "__main__":
    unittest.main()
