"""Wheel, source archive and Debian package, each the same to the byte for the same commit.

    make.py sources SOURCE OUT            wheel and sdist
    make.py deb SOURCE OUT PYTHON         the package, around the interpreter that PYTHON runs on

The package carries its own environment: the interpreter, the libraries of `requirements.lock` that run needs, and
Mervid. What it wants of the system is found by the linker's own tables, so that it runs on later releases, too.
"""

from __future__ import annotations

import gzip
import io
import os
import shutil
import subprocess
import sys
import tarfile
from collections.abc import Iterable
from importlib import metadata
from pathlib import Path

EPOCH = int(os.environ["SOURCE_DATE_EPOCH"])
HOME = "usr/lib/mervid"
# modules of Qt that Mervid imports, and plugins that are loaded when they are needed
QT_MODULES = ("QtCore", "QtDBus", "QtGui", "QtMultimedia", "QtNetwork", "QtSvg", "QtWidgets")
QT_PLUGINS = (
    "iconengines",
    "imageformats/libqjpeg.so",
    "imageformats/libqsvg.so",
    "multimedia",
    "platforminputcontexts/libcomposeplatforminputcontextplugin.so",
    "platforminputcontexts/libibusplatforminputcontextplugin.so",
    "platforms/libqminimal.so",
    "platforms/libqoffscreen.so",
    "platforms/libqwayland.so",
    "platforms/libqxcb.so",
    "platformthemes/libqxdgdesktopportal.so",
    "wayland-decoration-client",
    "wayland-graphics-integration-client",
    "wayland-shell-integration/libxdg-shell.so",
    "xcbglintegrations",
)
# parts of the standard library that no desktop program needs, and what they would want of the system
STDLIB_LEFT_OUT = (
    "test", "idlelib", "tkinter", "turtledemo", "turtle.py", "ensurepip", "lib2to3", "site-packages", "pydoc_data",
    "distutils", "__pycache__", "__phello__",
)  # fmt: skip
EXTENSIONS_LEFT_OUT = (
    "_ssl", "_hashlib", "readline", "_curses", "_dbm", "_gdbm", "_tkinter", "nis", "_crypt", "_test", "xx", "ossaudio",
    "spwd",
)  # fmt: skip
# loaded by name when there is a screen or a sound server, so no table names them
LOADED_BY_NAME = ("libegl1", "libgl1", "libfontconfig1")


def main(arguments: list[str]) -> int:
    """Do what is asked."""
    what, source, out = arguments[0], Path(arguments[1]).resolve(), Path(arguments[2]).resolve()
    if what == "sources":
        sources(source, out)
    else:
        deb(source, out, Path(arguments[3]).absolute())
    return 0


def run(*command: str | Path, **more: object) -> str:
    """Run a tool; what it printed."""
    done = subprocess.run([str(c) for c in command], check=False, stdout=subprocess.PIPE, text=True, **more)  # type: ignore[call-overload]
    told: str = done.stdout
    if done.returncode:
        raise SystemExit(f"{told[-2000:]}\n{command[0]} failed: what it said stands above.")
    return told


# wheel and sdist


def sources(source: Path, out: Path) -> None:
    """Build both without looking for tools elsewhere."""
    run(sys.executable, "-m", "build", "--no-isolation", "--outdir", out, source, stderr=subprocess.STDOUT)
    for made in out.glob("*.tar.gz"):
        _even(made)


def _even(archive: Path) -> None:
    """Pack a source archive anew, with one time and one owner for all that is in it."""
    with tarfile.open(archive) as old:
        members = [(m, old.extractfile(m).read() if m.isfile() else b"") for m in old.getmembers()]  # type: ignore[union-attr]
    body = io.BytesIO()
    with tarfile.open(fileobj=body, mode="w", format=tarfile.PAX_FORMAT) as new:
        for m, data in sorted(members, key=lambda pair: pair[0].name):
            m.mtime, m.uid, m.gid, m.uname, m.gname = EPOCH, 0, 0, "", ""
            m.pax_headers = {}
            new.addfile(m, io.BytesIO(data) if m.isfile() else None)
    archive.write_bytes(gzip.compress(body.getvalue(), mtime=EPOCH))


# the package


def deb(source: Path, out: Path, python: Path) -> None:
    """Put the tree of the package together, and pack it."""
    root = source.parent / "root"
    shutil.rmtree(root, ignore_errors=True)
    home = root / HOME
    runtime = interpreter(python, home)
    libraries(source, python, runtime, next(out.glob("*.whl")))
    prune_qt(runtime / "PyQt6")
    share(source, python, root, runtime)
    (root / "usr/bin").mkdir(parents=True)
    launcher = root / "usr/bin/mervid"
    # alone: nothing of the user's Python is looked at
    launcher.write_text(f'#!/bin/sh\nexec /{HOME}/bin/python3 -I -m mervid "$@"\n')
    launcher.chmod(0o755)
    compile_all(home)
    control(source, root)
    for path in (root, *root.rglob("*")):
        if not path.is_symlink():
            path.chmod(0o755 if path.is_dir() or os.access(path, os.X_OK) else 0o644)
        os.utime(path, (EPOCH, EPOCH), follow_symlinks=False)
    version, arch = _version(source), run("dpkg", "--print-architecture").strip()
    # one thread and one level: the same bytes on every machine
    run(
        "dpkg-deb", "--root-owner-group", "-Zxz", "-z4", "--threads-max=1", "--build", root,
        out / f"mervid_{version}_{arch}.deb",
    )  # fmt: skip


def interpreter(python: Path, home: Path) -> Path:
    """Copy the interpreter and its library to where the package has them; where packages go in it."""
    asked = "import sys, sysconfig; print(sys.base_prefix, sys.version_info.major, sys.version_info.minor)"
    base, major, minor = run(python, "-c", asked).split()
    name = f"python{major}.{minor}"
    (home / "bin").mkdir(parents=True)
    shutil.copy2(Path(base, "bin", name), home / "bin/python3")
    (home / f"bin/{name}").symlink_to("python3")
    stdlib = home / "lib" / name

    def left_out(folder: str, names: list[str]) -> list[str]:
        top = Path(folder) == Path(base, "lib", name)
        out = [n for n in names if n.endswith(".pyc") or n == "__pycache__" or n.startswith("config-")]
        out += [n for n in names if top and n in STDLIB_LEFT_OUT]
        if Path(folder).name == "lib-dynload":
            out += [n for n in names if n.startswith(EXTENSIONS_LEFT_OUT)]
        return out

    shutil.copytree(Path(base, "lib", name), stdlib, ignore=left_out)
    patchelf = Path(sys.executable).with_name("patchelf")
    for library in Path(base, "lib").glob(f"lib{name}.so.*"):
        shutil.copy2(library, home / "lib")
        run(patchelf, "--set-rpath", "$ORIGIN", home / "lib" / library.name)
    run(patchelf, "--set-rpath", "$ORIGIN/../lib", home / "bin/python3")
    for tool in stdlib.glob("lib-dynload/*.so"):
        run(patchelf, "--remove-rpath", tool)
    packages = stdlib / "site-packages"
    packages.mkdir()
    return packages


def libraries(source: Path, python: Path, target: Path, wheel: Path) -> None:
    """Install what is needed at run time, as it is locked, and Mervid itself."""
    locked = {}
    for line in (source / "requirements.lock").read_text().splitlines():
        name, _, version = line.partition("==")
        locked[_plain(name)] = version
    wanted = needed("mervid", python)
    chosen = [f"{name}=={locked[name]}" for name in sorted(wanted)]
    flags = ("-q", "--disable-pip-version-check", "--no-deps", "--no-compile", "--only-binary=:all:")
    run(python, "-m", "pip", "install", *flags, "--target", target, *chosen, wheel)
    shutil.rmtree(target / "bin", ignore_errors=True)
    for large in ("numpy", "scipy"):
        for tests in [p for p in (target / large).rglob("tests") if p.is_dir()]:
            shutil.rmtree(tests)
    for record in target.glob("*.dist-info"):
        # where it was installed from is nobody's business, and differs
        for name in ("direct_url.json", "REQUESTED", "RECORD"):
            (record / name).unlink(missing_ok=True)


def needed(name: str, python: Path) -> set[str]:
    """The packages that one needs at run time, and those need in turn, by their plain names."""
    asked = (
        "import sys; from importlib import metadata as m; from packaging.requirements import Requirement as R\n"
        "todo, seen = [sys.argv[1]], set()\n"
        "while todo:\n"
        "    for text in m.requires(todo.pop()) or []:\n"
        "        r = R(text)\n"
        "        if (r.marker is None or r.marker.evaluate({'extra': ''})) and r.name not in seen:\n"
        "            seen.add(r.name); todo.append(r.name)\n"
        "print(*seen)"
    )
    return {_plain(n) for n in run(python, "-c", asked, name).split()}


def _plain(name: str) -> str:
    return name.lower().replace("_", "-").replace(".", "-")


def prune_qt(qt: Path) -> None:
    """Keep of Qt what Mervid imports, the plugins it loads, and the libraries that these want."""
    for kind in ("*.abi3.so", "*.so", "*.pyi"):
        for module in qt.glob(kind):
            if module.name.split(".")[0] not in (*QT_MODULES, "sip"):
                module.unlink()
    for folder in ("bindings", "lupdate", "uic", "Qt6/qml", "Qt6/translations", "Qt6/qsci"):
        shutil.rmtree(qt / folder, ignore_errors=True)
    plugins = qt / "Qt6/plugins"
    kept = [plugins / name for name in QT_PLUGINS]
    for path in [p for p in plugins.rglob("*") if p.is_file()]:
        if not any(path == k or k in path.parents for k in kept):
            path.unlink()
    for folder in sorted((p for p in plugins.rglob("*") if p.is_dir()), reverse=True):
        if not any(folder.iterdir()):
            folder.rmdir()
    libraries = {p.name: p for p in (qt / "Qt6/lib").iterdir()}
    todo = [*qt.glob("*.so"), *plugins.rglob("*.so")]
    used: set[str] = set()
    while todo:
        for name in wants(todo.pop()):
            if name in libraries and name not in used:
                used.add(name)
                todo.append(libraries[name])
    for name, path in libraries.items():
        if name not in used and not name.startswith("libQt6FFmpegStub"):
            path.unlink()


def wants(library: Path) -> list[str]:
    """The libraries that one is linked to."""
    told = run("readelf", "-d", library)
    return [line.split("[")[1].rstrip("]") for line in told.splitlines() if "(NEEDED)" in line]


def compile_all(home: Path) -> None:
    """Byte code beside every module: nothing is written where it is installed, and nothing is left behind."""
    run(
        home / "bin/python3", "-I", "-m", "compileall", "-q", "-j1", "--invalidation-mode", "unchecked-hash",
        "-s", home, "-p", f"/{HOME}", home / "lib",
    )  # fmt: skip


def share(source: Path, python: Path, root: Path, packages: Path) -> None:
    """What the desktop and the shell want, licences, and the list of all that ships."""
    pages = {
        "applications/mervid.desktop": source / "packaging/mervid.desktop",
        "metainfo/org.mervid.Mervid.metainfo.xml": source / "packaging/mervid.metainfo.xml",
        "icons/hicolor/scalable/apps/mervid.svg": source / "packaging/mervid.svg",
        "doc/mervid/copyright": source / "packaging/copyright",
        "doc/mervid/THIRD_PARTY.md": source / "THIRD_PARTY.md",
        "doc/mervid/changelog.md": source / "CHANGELOG.md",
    }
    for place, path in pages.items():
        target = root / "usr/share" / place
        target.parent.mkdir(parents=True, exist_ok=True)
        shutil.copyfile(path, target)
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen", "PYTHONPATH": str(source)}
    run(python, source / "packaging/icons.py", root / "usr/share/icons/hicolor", env=environment)
    site = next(Path(sys.executable).parent.parent.glob("lib/python*/site-packages"))
    environment["PYTHONPATH"] = os.pathsep.join((str(source), str(packages), str(site)))
    run(sys.executable, source / "packaging/shell.py", root / "usr/share", env=environment)
    licences = root / "usr/share/doc/mervid/licences"
    licences.mkdir()
    shutil.copyfile(next(packages.parent.glob("LICENSE*")), licences / "python.txt")
    for info in sorted(packages.glob("*.dist-info")):
        texts = [
            p for p in info.rglob("*") if p.is_file() and p.name.upper().startswith(("LICEN", "COPYING", "NOTICE"))
        ]
        name = info.name.removesuffix(".dist-info")
        for text in sorted(texts):
            shutil.copyfile(text, licences / f"{name}-{text.name}")
    sbom = root / "usr/share/doc/mervid/mervid.cdx.json"
    bill(packages, sbom)


def bill(packages: Path, out: Path) -> None:
    """All that ships, with versions and licences, as a CycloneDX list."""
    from cyclonedx.builder.this import this_component
    from cyclonedx.factory.license import LicenseFactory
    from cyclonedx.model.bom import Bom
    from cyclonedx.model.component import Component, ComponentType
    from cyclonedx.output.json import JsonV1Dot6
    from packageurl import PackageURL

    kind = LicenseFactory()
    bom = Bom()
    bom.metadata.tools.components.add(this_component())
    for found in sorted(metadata.distributions(path=[str(packages)]), key=lambda d: d.name.lower()):
        told = found.metadata.get("License-Expression") or found.metadata.get("License") or ""
        classes = [c.split("::")[-1].strip() for c in found.metadata.get_all("Classifier") or [] if "License ::" in c]
        text = told if told and len(told) < 100 else ", ".join(classes)
        component = Component(
            name=found.name, version=found.version, type=ComponentType.LIBRARY,
            purl=PackageURL("pypi", name=_plain(found.name), version=found.version),
            licenses=[kind.make_from_string(text)] if text else [],
            # a name of its own, or a new one would be drawn at every build
            bom_ref=f"{_plain(found.name)}@{found.version}",
        )  # fmt: skip
        if _plain(found.name) == "mervid":
            component.type = ComponentType.APPLICATION
            bom.metadata.component = component
        else:
            bom.components.add(component)
    version = ".".join(map(str, sys.version_info[:3]))
    bom.components.add(
        Component(name="python", version=version, type=ComponentType.PLATFORM, bom_ref=f"python@{version}")
    )
    if bom.metadata.component is not None:
        bom.register_dependency(bom.metadata.component, sorted(bom.components, key=lambda c: c.name))
    import datetime
    import uuid

    bom.metadata.timestamp = datetime.datetime.fromtimestamp(EPOCH, datetime.UTC)
    bom.serial_number = uuid.uuid5(uuid.NAMESPACE_URL, f"mervid-{EPOCH}")
    out.write_text(JsonV1Dot6(bom).output_as_string(indent=1))


def control(source: Path, root: Path) -> None:
    """Name, version, and what is wanted of the system."""
    folder = root / "DEBIAN"
    folder.mkdir()
    size = sum(p.stat().st_size for p in root.rglob("*") if p.is_file() and not p.is_symlink()) // 1024
    wanted = [*depends(source, root), *(f"{name}" for name in LOADED_BY_NAME)]
    (folder / "control").write_text(
        f"Package: mervid\nVersion: {_version(source)}\nArchitecture: {run('dpkg', '--print-architecture').strip()}\n"
        f"Maintainer: The Mervid developers <mervid@localhost>\nInstalled-Size: {size}\n"
        f"Depends: {', '.join(_once(wanted))}\n"
        "Section: sound\nPriority: optional\n"
        "Description: prepare music in which nobody kept machine time\n"
        " Mervid hears the beats of recordings that nobody played to a machine, shows where\n"
        " they drift, builds grids that stay with them, finds phrases, places cues, and\n"
        " proves that two tracks stay together for a whole mix.\n"
    )
    lines = [
        f"{run('md5sum', p).split()[0]}  {p.relative_to(root)}"
        for p in sorted(root.rglob("*"))
        if p.is_file() and not p.is_symlink() and folder not in p.parents
    ]
    (folder / "md5sums").write_text("\n".join(lines) + "\n")


def _once(wanted: Iterable[str]) -> list[str]:
    """Each package once; the one with a version goes before the bare name."""
    by_name: dict[str, str] = {}
    for text in wanted:
        name = text.split()[0]
        if name not in by_name or "(" in text:
            by_name[name] = text
    return [by_name[name] for name in sorted(by_name)]


def depends(source: Path, root: Path) -> list[str]:
    """What the package's libraries want of the system, by the system's own reckoning."""
    scratch = source.parent / "shlibs"
    (scratch / "debian").mkdir(parents=True, exist_ok=True)
    (scratch / "debian/control").write_text("Source: mervid\n\nPackage: mervid\nArchitecture: any\n")
    own = {p.parent for p in root.rglob("*.so*") if p.is_file()}
    elves = [p for p in (root / HOME).rglob("*") if p.is_file() and not p.is_symlink() and _is_elf(p)]
    told = run(
        "dpkg-shlibdeps", "--ignore-missing-info", "--warnings=0", "-O", *(f"-l{folder}" for folder in sorted(own)),
        *(f"-e{p}" for p in sorted(elves)), cwd=scratch,
    )  # fmt: skip
    return [d.strip() for d in told.partition("Depends=")[2].strip().split(",")]


def _is_elf(path: Path) -> bool:
    with path.open("rb") as f:
        return f.read(4) == b"\x7fELF"


def _version(source: Path) -> str:
    text = (source / "mervid/__init__.py").read_text()
    return text.split('__version__ = "')[1].split('"')[0]


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
