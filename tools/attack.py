"""Attack Loam as a bad day would: broken files, kills, a full disk, two hands at once, huge trials.

Prints what was thrown and what was lost; exits with 1 when anything was.
"""

import json
import os
import random
import resource
import signal
import subprocess
import sys
import tempfile
import threading
import time
import traceback
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests"), str(ROOT / "tools")]

from attack_rough import (  # noqa: E402
    attack_copies,
    attack_devices,
    attack_pictures,
    attack_tampered,
)
from measuring import asked  # noqa: E402

from helpers.attack import (  # noqa: E402
    Target,
    mutant_csv,
    mutant_package,
    numbered,
    start_victim,
)
from loam.app.commands import TakeInTrial, take_reading  # noqa: E402
from loam.app.headless.check import check  # noqa: E402
from loam.app.session import Session  # noqa: E402
from loam.core.trial import Reading  # noqa: E402
from loam.demo.scenario import motions, one_steps  # noqa: E402
from loam.store.datapackage import write_package  # noqa: E402
from loam.store.flat import flat_text  # noqa: E402
from loam.store.workshop import Workshop  # noqa: E402

SEED = 20260926
LOST = []


def lost(said):
    """Note a loss, a crash, a half import or a stall."""
    LOST.append(said)
    print(f"LOST {said}", flush=True)


def memory_mb():
    """Return the most memory this process ever held."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


def attack_files(folder, count):
    """Throw mutants of a table and of a package at a workshop."""
    import csv
    import io

    sources = [list(csv.reader(io.StringIO(flat_text(d)))) for d in (motions(), one_steps())]
    small = [rows[:40] for rows in sources]
    package = folder / "whole.zip"
    write_package(motions(), package)
    whole = package.read_bytes()
    for kind in ("table", "package"):
        target, slowest, start = Target(folder), 0.0, time.perf_counter()
        for i in range(count):
            rng = numbered(SEED, kind, i)
            if kind == "table":
                name, raw = "mutant.csv", mutant_csv(rng, rng.choice(small))
            else:
                name, raw = "mutant.zip", mutant_package(rng, whole)
            begun = time.perf_counter()
            try:
                target.throw(name, raw)
            except BaseException as error:
                lost(f"{kind} mutant {i}: {type(error).__name__}: {error}")
                traceback.print_exc(limit=-3)
                (folder / f"{kind}-{i}").write_bytes(raw)
            slowest = max(slowest, time.perf_counter() - begun)
        took = time.perf_counter() - start
        print(
            f"{count} mutants of a {kind}: {target.taken} taken and judged, {target.refused}"
            f" refused in words, slowest {slowest:.1f} s, {took:.0f} s in all,"
            f" {memory_mb():.0f} MB",
            flush=True,
        )


def attack_sizes(folder, _count):
    """Throw files at it that are large in each way a file can be."""
    files = {
        "one letter a line, 95 MB": lambda f: f.write_bytes(b"a\n" * (95 * 2**19)),
        "one line of 95 MB": lambda f: f.write_bytes(b"a," * (95 * 2**19)),
        "quotes only, 95 MB": lambda f: f.write_bytes(b'"' * (95 * 2**20)),
        "5,000 columns": lambda f: f.write_text(
            ",".join(f"c{i}" for i in range(5000)) + "\n" + (",".join("1" * 5000) + "\n") * 300
        ),
        "300 MB": lambda f: f.open("wb").truncate(300 * 2**20),
    }
    code = (
        "import sys, resource; from pathlib import Path\n"
        "from loam.app.bring_in import read_file\nfrom loam.core.errors import LoamError\n"
        "try: read_file(Path(sys.argv[1])); print('taken', end=' ')\n"
        "except LoamError as e: print('refused:', str(e)[:90], end=' ')\n"
        "print('|', resource.getrusage(resource.RUSAGE_SELF).ru_maxrss // 1024)"
    )
    environment = {**os.environ, "PYTHONPATH": str(ROOT / "src")}
    for name, make in files.items():
        file = folder / "large.csv"
        make(file)
        start = time.perf_counter()
        done = subprocess.run(
            [sys.executable, "-c", code, str(file)],
            env=environment,
            capture_output=True,
            text=True,
            check=False,
        )
        took = time.perf_counter() - start
        if done.returncode:
            lost(f"{name}: {done.stderr.strip().splitlines()[-1]}")
            continue
        said, megabytes = done.stdout.rsplit("|", 1)
        print(f"{name}: {said.strip()} ({int(megabytes)} MB of memory, {took:.1f} s)", flush=True)
        if int(megabytes) > 1024:
            lost(f"{name}: {int(megabytes)} MB of memory")
        file.unlink()


def told(output):
    """Return what a victim said before it was stopped: readings, trials taken, trials failed."""
    read, noted, taken, failed = {}, set(), set(), set()
    for line in output.splitlines(keepends=True):
        if not line.endswith("\n"):
            break  # cut off by the kill: it was not told
        word, _, rest = line.strip().partition(" ")
        if word == "NOTED":
            noted.add(int(rest))
        elif word == "READ":
            ordinal, value = rest.split()
            read[int(ordinal)] = float(value)
        elif word in ("TAKEN", "FAILED"):
            (taken if word == "TAKEN" else failed).add(rest)
    return read, noted, taken, failed


def told_and_kept(path, output):
    """Compare what a victim was told with what is there; return how much it was told."""
    read, noted, taken, failed = told(output)
    found = check(path)
    if not found["ok"]:
        lost(f"damaged: {found['problems']}")
    workshop = Workshop(path)
    kept = dict(
        workshop.connection.execute("SELECT ordinal, value FROM reading WHERE ordinal >= 100")
    )
    names = {t.name for t in Session(workshop).trials()}
    notes = {
        json.loads(row[0])["n"]
        for row in workshop.connection.execute("SELECT facts FROM noted WHERE sort='tile'")
    }
    workshop.close()
    whole = len(motions().readings)
    half = [t for t in found["trials"] if t["name"].startswith("in ") and t["readings"] != whole]
    for said, missing in (
        (
            "a reading was told as kept and is not there",
            [r for r in read if kept.get(r) != read[r]],
        ),
        ("a note was told as kept and is not there", noted - notes),
        ("a trial was told as taken and is not there", taken - names),
        ("a trial was told as failed and is there", failed & names),
        ("half a trial is there", half),
    ):
        if missing:
            lost(f"{said}: {missing}")
    return len(read), len(taken), len(failed)


def attack_kills(folder, count):
    """Kill a writing process again and again, in the middle of whatever it does."""
    path = folder / "killed.loam"
    workshop = Workshop(path)
    Session(workshop).run(TakeInTrial(motions()))
    workshop.close()
    rng = random.Random(SEED)
    total = [0, 0, 0]
    for i in range(1, count + 1):
        victim = start_victim(path, i)
        output = victim.stdout.readline()
        time.sleep(rng.uniform(0.0, 0.25))
        victim.send_signal(signal.SIGKILL)
        output += victim.stdout.read()
        victim.wait()
        if not output:
            lost(f"kill {i}: it could not start: {victim.stderr.read()[-200:]}")
        for k, n in enumerate(told_and_kept(path, output)):
            total[k] += n
        if i % 40 == 0:
            path.unlink()
            workshop = Workshop(path)
            Session(workshop).run(TakeInTrial(motions()))
            workshop.close()
    print(f"{count} kills: {total[0]} readings and {total[1]} trials told as kept", flush=True)


def attack_full_disk(folder, count):
    """Let the disk fill at every stage of an import."""
    rng = random.Random(SEED)
    total = [0, 0, 0]
    for i in range(1, count + 1):
        path = folder / "full.loam"
        for old in folder.glob("full.loam*"):
            if old.is_file():
                old.unlink()
        workshop = Workshop(path)
        Session(workshop).run(TakeInTrial(motions()))
        workshop.close()
        room = path.stat().st_size + rng.randrange(0, 200_000)
        victim = start_victim(path, i, room)
        output, errors = victim.communicate(timeout=120)
        if "Traceback" in errors:
            lost(f"full disk {i}: {errors.strip().splitlines()[-1]}")
        for k, n in enumerate(told_and_kept(path, output)):
            total[k] += n
    print(
        f"{count} full disks: {total[0]} readings kept, {total[1]} imports taken,"
        f" {total[2]} failed",
        flush=True,
    )


def large_draft(panels=500, combinations=200, per=90, times=4):
    """Return a trial of 500 panels, 200 combinations and 180,000 readings."""
    import numpy as np

    from loam.core.panel import Taping
    from loam.core.trial import Cell, Combination, Panel, Trial
    from loam.store.draft import TrialDraft

    rng = np.random.default_rng(5)
    taping = Taping(1300, 1100, 9, 10, 10, 30)
    cells = [
        Cell(i + 1, i // per + 1, i % per // 10, i % 10, i % combinations + 1, i % per + 1)
        for i in range(panels * per)
    ]
    values = np.round(80 + rng.normal(0, 2, (len(cells), times)), 1)
    readings = [
        Reading(c * times + k + 1, c + 1, "gloss20", float(values[c, k]), "after", k + 1)
        for c in range(len(cells))
        for k in range(times)
    ]
    classes = ("soft", "medium", "hard")
    return TrialDraft(
        Trial(1, "Large", "Which is it?", ("gloss20",), times),
        tuple(Panel(i + 1, 1, f"P{i + 1}", classes[i % 3], taping) for i in range(panels)),
        tuple(Combination(i + 1, f"C{i + 1}") for i in range(combinations)),
        tuple(cells),
        tuple(readings),
    )


def attack_two_hands(folder, _count):
    """Type readings while 200,000 lines come in; the slowest one counts."""
    path = folder / "two.loam"
    workshop = Workshop(path)
    session = Session(workshop)
    session.run(TakeInTrial(motions()))
    file = folder / "two.csv"
    with file.open("w") as out:
        out.write("panel,hardness,cell,combo,gloss20\n")
        for i in range(200_000):
            out.write(
                f"P{i // 4000},soft,s{i // 20 % 200},{'AB'[i // 20 % 2]},{80 + i % 7}.{i % 9}\n"
            )
    from loam.app.bring_in import read_file
    from loam.ui.worker import SWITCH_S

    sys.setswitchinterval(SWITCH_S)  # as the window does
    done = threading.Event()

    def bring():
        TakeInTrial(read_file(file)).write_apart(path, workshop.now())
        done.set()

    worker = threading.Thread(target=bring)
    worker.start()
    cell, slowest, count = session.cells()[0].id, 0.0, 0
    while not done.is_set():
        start = time.perf_counter()
        reading = Reading(0, cell, "gloss20", 80.0, ordinal=100 + count)
        session.run(take_reading(session.trial_id, reading))
        slowest = max(slowest, time.perf_counter() - start)
        count += 1
        time.sleep(0.02)
        if not worker.is_alive() and not done.is_set():
            lost("the import of 200,000 lines failed")
            break
    worker.join()
    print(
        f"two hands: {count} readings typed while 200,000 lines came in,"
        f" slowest {1e3 * slowest:.0f} ms",
        flush=True,
    )
    if slowest > 0.1:
        lost(f"a typed reading waited {1e3 * slowest:.0f} ms for an import")
    workshop.close()


def attack_window(folder, _count):
    """Turn through every view on a trial of 180,000 readings; no stall may be above 100 ms."""
    from bench import Watch

    path = folder / "window.loam"
    workshop = Workshop(path)
    command = TakeInTrial(large_draft())
    command.write_apart(path, workshop.now())
    workshop.close()
    watch = Watch(path)
    window = watch.window

    def stall(name, act):
        worst = watch.during(act)
        print(f"{'ok  ' if worst <= 100 else 'MISS'} {name}: {worst:.0f} ms", flush=True)
        if worst > 100:
            lost(f"{name}: the window stood still for {worst:.0f} ms")

    for round_ in ("first", "again"):
        for step in ("ask", "kit", "panels", "layout", "work", "read", "judge"):
            stall(f"turning to {step}, {round_}", lambda s=step: window.go(s))
    window.go("read")

    def type_one():
        window.view.digits.setText("80.3")
        window.view.keep()
        window.view.keep()

    for _ in range(3):
        stall("typing a reading", type_one)
    stall("next panel", lambda: window.view.walking.turn_panel_by(1))
    window.go("layout")
    stall("next panel of the layout", lambda: window.view.turn(1))
    window.go("judge")
    watch.rest()
    stall("readings behind a figure", window.view.open_origin)
    wide = folder / "wide.csv"
    names = ["panel", "hardness", "cell", "combo", "gloss20"]
    names += [("<b>" + "n" * 20_000 if i == 0 else f"column\u202e {i}") for i in range(3000)]
    with wide.open("w", encoding="utf-8") as out:
        out.write(",".join(names) + "\n")
        for i in range(40):
            out.write(f"P,soft,K{i % 4 + 1},{'AB'[i % 2]},{80 + i % 5}" + ",x" * 3000 + "\n")
    stall("a file of 3,000 columns", lambda: window.bring_in_file(wide))
    stall("changing a meaning in it", lambda: window.view.set_meaning("column\u202e 1", "operator"))
    stall("taking it in", window.view.take_in)
    watch.stop()


def attack_odd(folder, count):
    """Ask every presenter, report and door of so many small, odd trials."""
    from helpers.drive import Driven
    from helpers.odd_trials import odd_trial

    for seed in range(1_000, 1_000 + count):
        place = folder / f"odd{seed}"
        place.mkdir()
        odd = odd_trial(seed)
        driven = Driven(odd.draft, place)
        try:
            for fault in driven.everything():
                lost(f"odd trial {seed} ({', '.join(odd.how)}): {fault}")
        finally:
            driven.close()
        for file in place.iterdir():
            file.unlink()
        place.rmdir()
        if seed % 100 == 99:
            print(f"     {seed - 999} odd trials asked", flush=True)


ROUGH = {
    "devices": (attack_devices, 40),
    "copies": (attack_copies, 300),
    "tampered": (attack_tampered, 100),
    "pictures": (attack_pictures, 4_000),
}
"""Parts of rough hands, and how many of each."""


def attack_properties(_folder, count):
    """Let every property of the tests be tried with so many examples that were never seen."""
    files = [
        str(p)
        for p in sorted((ROOT / "tests").rglob("test_*.py"))
        if "from hypothesis" in p.read_text()
    ]
    began = time.monotonic()
    done = subprocess.run(
        [
            sys.executable,
            "-m",
            "pytest",
            "-q",
            "-m",
            "hypothesis",
            "-p",
            "no:cacheprovider",
            *files,
        ],
        cwd=ROOT,
        env={**os.environ, "EXPLORE": str(count)},
        capture_output=True,
        text=True,
        check=False,
    )
    lines = done.stdout.strip().splitlines()
    print(f"properties: {count} examples each, {time.monotonic() - began:.0f} s: {lines[-1]}")
    failed = [line for line in lines if line.startswith(("FAILED", "ERROR"))]
    if failed:
        print("\n".join(lines[-200:]))
    for line in failed or ["could not be tried: " + done.stderr[-300:]] * bool(done.returncode):
        lost(f"property: {line[:300]}")


OWN = {
    "properties": (attack_properties, 300),
    "odd": (attack_odd, 2_000),
    "files": (attack_files, 10_000),
    "sizes": (attack_sizes, 0),
    "kills": (attack_kills, 200),
    "disk": (attack_full_disk, 60),
    "hands": (attack_two_hands, 0),
    "window": (attack_window, 0),
}
ALL = (*OWN, *ROUGH)


def main():
    """Run the attacks named, or all: [NAME ...] [COUNT]."""
    wanted, counts = asked(sys.argv[1:], ALL)
    with tempfile.TemporaryDirectory() as place:
        folder = Path(place)
        for name, (attack, usual) in OWN.items():
            if name in wanted:
                attack(folder, counts[0] if counts else usual)
        for name, (attack, usual) in ROUGH.items():
            if name in wanted:
                (folder / name).mkdir()
                attack(folder / name, counts[0] if counts else usual, lost)
    print(f"{len(LOST)} lost." if LOST else "Nothing was lost.")
    return 1 if LOST else 0


if __name__ == "__main__":
    sys.exit(main())
