"""Rough hands: meters that babble, copies and logs put together by hand, bent files, pictures.

Each part takes a folder, a count, and what is called with what was lost.
"""

import io
import os
import random
import shutil
import signal
import sqlite3
import struct
import subprocess
import sys
import threading
import time
import traceback
import zlib
from contextlib import closing, suppress
from datetime import datetime
from pathlib import Path

SEED = 20261130
ROOT = Path(__file__).resolve().parent.parent
ENVIRONMENT = {**os.environ, "PYTHONPATH": f"{ROOT / 'src'}:{ROOT / 'tests'}"}
READING_S = 12.0
"""A call of a driver may take so long at most: its deadline, three times, and some."""


def _babble(ours, pieces, pause, rng, stop):
    """Say one of some pieces again and again, whatever is asked."""
    os.set_blocking(ours, False)
    while not stop.is_set():
        with suppress(OSError):
            os.write(ours, rng.choice(pieces))
            os.read(ours, 4096)
        time.sleep(pause)


def attack_devices(_folder, count, lost):
    """Listen to, and ask, meters on real lines that say anything but what was asked."""
    from loam.core.instruments.line import sealed
    from loam.devices.meter import Meter, MeterFault
    from loam.devices.ports import open_meter

    slowest, faults, calls, identify = 0.0, 0, 0, Meter.identify
    for number in range(count):
        rng = random.Random(SEED + number)
        # three in four are past saying who they are
        Meter.identify = identify if number % 4 == 0 else lambda _self: "gloss"
        ours, theirs = os.openpty()
        stop = threading.Event()
        pieces = [
            b"x",
            b"7 OK um=1",
            b"z" * 4000,
            bytes(range(256)),
            b"\n\r\n",
            b"\x00" * 60,
            sealed("! READY") * 40,
            sealed("! LIFT"),
            sealed("900 OK um=1 gu20=85.0"),
            b"1 OK gu20=85.0*00\n",
            sealed("1 ERR 99 " + "w" * 200),
            b"-1 OK*zz\n",
        ]
        chosen = rng.sample(pieces, rng.randint(1, 3))
        pause = rng.choice((0.0, 0.001, 0.03, 0.2))

        talker = threading.Thread(
            target=_babble, args=(ours, chosen, pause, rng, stop), daemon=True
        )
        talker.start()
        try:
            try:
                meter = open_meter(os.ttyname(theirs))
            except MeterFault as error:
                faults, calls = faults + bool(str(error).strip()), calls + 1
                continue
            meter.kind = "gloss"
            for act in rng.choices((meter.heard, meter.read, meter.state), k=4):
                start = time.perf_counter()
                try:
                    found = act()
                    if act == meter.read:
                        lost(f"meter {number}: a reading that nobody took: {found}")
                except MeterFault as error:
                    faults += bool(str(error).strip())
                except Exception as error:
                    lost(f"meter {number}: {type(error).__name__}: {error}")
                slowest, calls = max(slowest, time.perf_counter() - start), calls + 1
            meter.close()
        finally:
            stop.set()
            talker.join()
            os.close(ours)
            os.close(theirs)
        if slowest > READING_S:
            lost(f"meter {number}: a call took {slowest:.1f} s")
            break
    Meter.identify = identify
    print(
        f"{count} meters: {calls} calls, {faults} faults said, slowest {slowest:.1f} s", flush=True
    )


def _workshop(path):
    from loam.app.commands import TakeInTrial
    from loam.app.session import Session
    from loam.demo.scenario import motions
    from loam.store.workshop import Workshop

    workshop = Workshop(path)
    Session(workshop).run(TakeInTrial(motions()))
    workshop.close()


TYPIST = """
import sys
from pathlib import Path
from loam.app.session import Session
from loam.core.trial import Reading
from loam.store.readings import add_reading
from loam.store.settling import Settler
from loam.store.workshop import Workshop
workshop = Workshop(Path(sys.argv[1]))
Settler(workshop.path, every=float(sys.argv[2])).start()
cell = Session(workshop).cells()[3].id
last = workshop.connection.execute("SELECT max(ordinal) FROM reading").fetchone()[0]
print("GO", flush=True)
for line in sys.stdin:
    for _ in range(int(line)):
        last += 1
        with workshop.transaction() as db:
            add_reading(db, Reading(0, cell, "gloss20", 80.0, ordinal=last), "")
        print(last, flush=True)
    print("DONE", flush=True)
"""


class Typist:
    """A process that types readings, so many at a time, until it is killed."""

    def __init__(self, path, every=0.005):
        self.process = subprocess.Popen(
            [sys.executable, "-c", TYPIST, str(path), str(every)],
            env=ENVIRONMENT,
            text=True,
            stdin=subprocess.PIPE,
            stdout=subprocess.PIPE,
        )
        self.process.stdout.readline()
        self.told = 0

    def type(self, count):
        """Type so many, and wait until they are told as kept."""
        self.process.stdin.write(f"{count}\n")
        self.process.stdin.flush()
        while (line := self.process.stdout.readline().strip()) != "DONE":
            self.told = int(line)

    def kill(self):
        """End it as the current does."""
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()
        self.process.stdout.close()
        with suppress(OSError):
            self.process.stdin.close()


def _ordinals(path):
    with closing(sqlite3.connect(f"file:{path}?mode=ro&immutable=1", uri=True)) as db:
        whole = db.execute("PRAGMA integrity_check").fetchone()[0]
        rows = db.execute(
            "SELECT ordinal FROM reading WHERE ordinal > 5 AND cell_id ="
            " (SELECT cell_id FROM reading ORDER BY id DESC LIMIT 1)"
        ).fetchall()
        return whole, sorted(r[0] for r in rows)


def attack_copies(folder, count, lost):
    """Copy an open workshop by hand, mix files and logs of different moments, kill and go back."""
    rng = random.Random(SEED)
    moments = _moments(folder, rng, lost)
    aside = played = 0
    for number in range(count):
        file, log = rng.choice(moments), rng.choice(moments)
        trial = folder / "mixed.loam"
        for old in folder.glob("mixed.loam*"):
            old.unlink()
        shutil.copyfile(file, trial)
        shutil.copyfile(f"{log}-wal", f"{trial}-wal")
        said, more = _mixture(
            f"mixture {number} ({file.parent.name}, {log.parent.name})", trial, lost
        )
        aside, played = aside + said, played + more
    print(
        f"{count} mixtures of a file and a log: {aside} logs set aside, {played} played in",
        flush=True,
    )
    _kills_while_going_back(folder, max(count // 10, 5), lost)


def _moments(folder, rng, lost):
    """Type, and keep what a cut would leave at some moments; plain copies at rest are whole."""
    path, moments, taken = folder / "copied.loam", [], 0
    _workshop(path)
    typist = Typist(path)
    for moment in range(12):
        typist.type(rng.randint(1, 12))
        if moment % 3 == 2:
            for _ in range(400):  # until it is at rest: the log is empty then
                if not os.path.getsize(f"{path}-wal"):
                    break
                time.sleep(0.01)
            plain = folder / "plain.loam"
            shutil.copyfile(path, plain)
            whole, ordinals = _ordinals(plain)
            taken += 1
            if whole != "ok" or not ordinals or ordinals[-1] != typist.told:
                lost(f"a plain copy of {typist.told} readings has {ordinals[-1:]} and is {whole}")
        place = folder / f"moment{moment}"
        place.mkdir()
        for ending in ("", "-wal"):
            shutil.copyfile(f"{path}{ending}", f"{place / 'w.loam'}{ending}")
        moments.append(place / "w.loam")
    typist.kill()
    print(f"{taken} plain copies of an open workshop", flush=True)
    return moments


def _mixture(name, trial, lost):
    """Open a file with a log of another moment; tell whether that was set aside, and played in."""
    from loam.store.database import WorkshopRefused
    from loam.store.workshop import Workshop

    _, alone = _ordinals_of_alone(trial)
    try:
        workshop = Workshop(trial)
        said = workshop.said
        workshop.close()
    except WorkshopRefused:
        return False, False
    try:
        whole, ordinals = _ordinals(trial)
    except sqlite3.DatabaseError as error:
        lost(f"{name}: it was opened, and then: {error}")
        return bool(said), False
    if whole != "ok" or ordinals != list(range(6, 6 + len(ordinals))):
        lost(f"{name}: {whole}, readings {ordinals[:3]} to {ordinals[-1:]}, {len(ordinals)}")
    if len(ordinals) < alone:
        lost(f"{name}: {alone} readings in the file, {len(ordinals)} after opening")
    return bool(said), len(ordinals) > alone


def _ordinals_of_alone(path):
    try:
        whole, ordinals = _ordinals(path)
    except sqlite3.DatabaseError:
        return "broken", 0
    return whole, len(ordinals) if whole == "ok" else 0


GOER = """
import sys
from datetime import datetime
from pathlib import Path
from loam.store.copies import copies, go_back, keep_copy
path = Path(sys.argv[1])
print("GO", flush=True)
while True:
    keep_copy(path, datetime.now())
    go_back(path, copies(path)[-1].path, datetime.now())
"""


def _kills_while_going_back(folder, count, lost):
    """Kill a process that keeps copies and goes back to them, again and again."""
    from loam.store.copies import copies, keep_copy
    from loam.store.workshop import Workshop

    rng, path = random.Random(SEED + 1), folder / "goer.loam"
    _workshop(path)
    keep_copy(path, datetime(2026, 9, 26, 12, 0, 0))
    for number in range(count):
        process = subprocess.Popen(
            [sys.executable, "-c", GOER, str(path)], env=ENVIRONMENT, stdout=subprocess.PIPE
        )
        process.stdout.readline()
        time.sleep(rng.uniform(0.0, 0.4))
        process.send_signal(signal.SIGKILL)
        process.wait()
        process.stdout.close()
        try:
            workshop = Workshop(path)
            trials = workshop.connection.execute("SELECT count(*) FROM trial").fetchone()[0]
            whole = workshop.connection.execute("PRAGMA integrity_check").fetchone()[0]
            workshop.close()
            if trials != 1 or whole != "ok":
                lost(f"going back, kill {number}: {trials} trials, {whole}")
        except Exception as error:
            lost(f"going back, kill {number}: {type(error).__name__}: {error}")
        for copy in copies(path):
            with closing(sqlite3.connect(f"file:{copy.path}?mode=ro", uri=True)) as db:
                if db.execute("PRAGMA quick_check").fetchone()[0] != "ok":
                    lost(f"going back, kill {number}: the copy {copy.path.name} is not whole")
        for old in folder.glob("goer.loam.set-aside*"):
            old.unlink()
    print(f"{count} kills while copies were kept and gone back to", flush=True)


def attack_tampered(folder, count, lost):
    """Bend workshops by hand and open them in the real window, view by view."""
    from PyQt6.QtCore import QEvent
    from PyQt6.QtWidgets import QApplication

    from helpers.tamper import bend
    from loam.app.headless.check import check
    from loam.app.presenters.path import STEPS
    from loam.core.errors import LoamError
    from loam.demo.scenario import make_demo
    from loam.ui.start import Desk
    from loam.ui.window import MainWindow

    application = QApplication.instance() or QApplication([])
    base, bent = folder / "base.loam", [""]
    make_demo(base)

    def fault(kind, error, trace):
        if not isinstance(error, LoamError):
            where = traceback.extract_tb(trace)[-1]
            lost(
                f"{bent[0]}: {kind.__name__}: {error} ({Path(where.filename).name} {where.lineno})"[
                    :600
                ]
            )

    former, sys.excepthook = sys.excepthook, fault
    opened, refused = 0, 0
    try:
        for number in range(count):
            rng, path = random.Random(SEED + number), folder / f"bent{number}.loam"
            shutil.copyfile(base, path)
            bent[0] = f"bent {number}: {bend(path, rng, rng.choice((1, 2, 4)))}"
            desk = Desk(application)
            try:
                check(path)
                desk.open(path)
                if isinstance(desk.window, MainWindow):
                    opened += 1
                    for step, _ in STEPS:
                        desk.window.go(step)
                        end = time.monotonic() + (2.0 if step == "judge" else 0.2)
                        while desk.window.jobs.busy and time.monotonic() < end:
                            application.processEvents()
                    desk.window.jobs.stop()
                else:
                    refused += 1
            except Exception as error:
                fault(type(error), error, error.__traceback__)
            desk.close()
            if desk.window is not None:
                desk.window.close()
                desk.window.deleteLater()
            application.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            for part in folder.glob(f"bent{number}.loam*"):
                shutil.rmtree(part) if part.is_dir() else part.unlink()
    finally:
        sys.excepthook = former
    print(f"{count} bent workshops: {opened} opened, {refused} refused in words", flush=True)


def _bomb(rng):
    """Return a PNG that says it has many pixels, in a few bytes."""
    width, height = rng.choice(((9400, 9400), (30_000, 30_000), (2**31 - 1, 1), (1, 70_000)))

    def chunk(kind, data):
        return (
            struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))
        )

    head = struct.pack(">IIBBBBB", width, height, 1, 0, 0, 0, 0)
    rows = zlib.compress(bytes(min(width // 8 + 2, 90_000)) * 20)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def attack_pictures(folder, count, lost):
    """Read pictures with broken words of a camera, bombs, noise, and other formats by name."""
    import numpy as np
    from PIL import Image

    from loam.core.errors import LoamError
    from loam.store.picture_file import read_picture, read_small

    exif = Image.Exif()
    exif[0x0112], exif[0x010F] = 6, "Sparrow"
    wholes = []
    noise = np.random.default_rng(SEED).integers(0, 255, (120, 160, 3), dtype=np.uint8)
    for kind, more in (("JPEG", {"exif": exif.tobytes()}), ("PNG", {}), ("GIF", {}), ("TIFF", {})):
        out = io.BytesIO()
        Image.fromarray(noise).save(out, kind, **more)
        wholes.append(out.getvalue())
    slowest, read, refused = 0.0, 0, 0
    for number in range(count):
        rng = random.Random(SEED + number)
        raw = bytearray(_bomb(rng) if number % 10 == 0 else rng.choice(wholes))
        near = min(len(raw), 120) if rng.random() < 0.6 else len(raw)
        for _ in range(rng.randint(0, 8)):
            raw[rng.randrange(near)] = rng.randrange(256)
        path = folder / "picture.jpg"
        path.write_bytes(bytes(raw[: rng.choice((len(raw), rng.randint(1, len(raw))))]))
        for act in (read_picture, lambda p: read_small(p, 1600)):
            start = time.perf_counter()
            try:
                act(path)
                read += 1
            except LoamError as error:
                refused += bool(str(error).strip())
            except BaseException as error:
                lost(f"picture {number}: {type(error).__name__}: {error}")
            slowest = max(slowest, time.perf_counter() - start)
    print(
        f"{count} pictures: {read} read, {refused} refused in words, slowest {slowest:.1f} s",
        flush=True,
    )
    if slowest > 10.0:
        lost(f"a picture took {slowest:.1f} s")
