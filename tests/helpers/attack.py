"""Odd, broken and hostile files, seeded; and what must hold whatever such a file does."""

import csv
import io
import json
import os
import random
import subprocess
import sys
import warnings
import zipfile
from pathlib import Path

from loam.app.bring_in import read_file
from loam.app.commands import TakeInTrial
from loam.app.headless.check import check
from loam.app.questions.ranking.find import judge_trial
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.verdict import asked_of
from loam.store.admission import check_draft
from loam.store.workshop import Workshop

TREE = Path(__file__).resolve().parent.parent.parent
ODD = (
    "",
    " ",
    "nan",
    "NaN",
    "inf",
    "-inf",
    "1e308",
    "-1e308",
    "1e-320",
    "-0",
    "-1",
    "0",
    "1",
    "846",
    "9" * 30,
    str(2**63),
    str(2**70),
    "-" + "9" * 25,
    "1,5",
    "1.234.567",
    "0x10",
    "1_000",
    "١٢",
    "²",
    "½",
    "soft",
    "hard",
    "linear",
    "log",
    "gloss20",
    "smell",
    "removed",
    "after",
    "unwiped",
    "true",
    "null",
    "=1+1",
    "+cmd",
    "@x",
    "'",
    '"',
    '""',
    "\\",
    "\t",
    "\r",
    "\n",
    "a\nb",
    "<b>x</b>",
    "\u202eabc",
    "\u200f",
    "\ufeff",
    "\U0001f600",
    "x" * 121,
    "y" * 5000,
    "K1",
    "KK1",
    "A1",
    "2026-13-45",
    "\x7f",
    "\x85",
    "é",
    "日本",
)


def odd(rng):
    """Return an odd text."""
    return rng.choice(ODD)


def mutate_bytes(rng, data):
    """Return bytes with a few of them changed, lost, doubled or added."""
    raw = bytearray(data)
    for _ in range(rng.randint(1, 6)):
        at = rng.randrange(len(raw) + 1)
        act = rng.randrange(6)
        if act == 0 and raw:
            raw[at % len(raw)] = rng.randrange(256)
        elif act == 1:
            del raw[at : at + rng.randint(1, 40)]
        elif act == 2:
            raw[at:at] = raw[at : at + rng.randint(1, 200)]
        elif act == 3:
            raw[at:at] = bytes(rng.randrange(256) for _ in range(rng.randint(1, 12)))
        elif act == 4:
            del raw[at:]
        else:
            raw[at:at] = odd(rng).encode("utf-8", "replace")
    return bytes(raw)


def mutate_rows(rng, rows):
    """Return a table with cells, lines or columns changed."""
    rows = [list(row) for row in rows]
    for _ in range(rng.randint(1, 4)):
        act, at = rng.randrange(8), rng.randrange(len(rows))
        row = rows[at]
        if act <= 2 and row:
            row[rng.randrange(len(row))] = odd(rng)
        elif act == 3 and len(rows) > 1:
            del rows[at]
        elif act == 4:
            rows.insert(rng.randrange(len(rows) + 1), list(row))
        elif act == 5:
            value = odd(rng)
            rows = [[*r, value] for r in rows]
        elif act == 6:
            place = rng.randrange(max(len(rows[0]), 1))
            rows = [r[:place] + r[place + 1 :] for r in rows]
        else:
            place, value = rng.randrange(max(len(rows[0]), 1)), odd(rng)
            rows = rows[:1] + [[*r[:place], value, *r[place + 1 :]] for r in rows[1:]]
    return rows


def as_csv(rows, delimiter=","):
    """Write a table as text."""
    out = io.StringIO(newline="")
    csv.writer(out, delimiter=delimiter).writerows(rows)
    return out.getvalue()


def mutant_csv(rng, rows):
    """Return the bytes of a CSV that was changed as a table, as text, or both."""
    delimiter = rng.choice(",;\t|")
    if rng.random() < 0.7:
        rows = mutate_rows(rng, rows)
    raw = as_csv(rows, delimiter).encode("utf-8", "surrogatepass")
    if rng.random() < 0.3:
        raw = mutate_bytes(rng, raw)
    if rng.random() < 0.05:
        raw = raw.decode("utf-8", "replace").encode("utf-16")
    return raw


def _mutate_json(rng, value, depth=0):
    if isinstance(value, dict) and value and depth < 6:
        key = rng.choice(sorted(value))
        act = rng.randrange(3)
        if act == 0:
            value.pop(key)
        elif act == 1:
            value[key] = rng.choice([None, -1, 2**70, odd(rng), [], {}, 1.5, True])
        else:
            value[key] = _mutate_json(rng, value[key], depth + 1)
    elif isinstance(value, list) and value and depth < 6:
        at = rng.randrange(len(value))
        value[at] = _mutate_json(rng, value[at], depth + 1)
    else:
        return rng.choice([None, -1, 2**70, odd(rng), [[[]]], {"a": {}}])
    return value


def mutant_package(rng, package):
    """Return the bytes of a package whose tables, description or raw bytes were changed."""
    if rng.random() < 0.15:
        return mutate_bytes(rng, package)
    with zipfile.ZipFile(io.BytesIO(package)) as archive:
        members = {n: archive.read(n) for n in archive.namelist()}
    for _ in range(rng.randint(1, 2)):
        name = rng.choice(sorted(members))
        if name.endswith(".json") and rng.random() < 0.8:
            try:
                said = _mutate_json(rng, json.loads(members[name]))
                members[name] = json.dumps(said).encode()
            except ValueError:
                members[name] = b"[" * rng.randint(1, 100_000)
        elif rng.random() < 0.75:
            text = members[name].decode("utf-8", "replace").replace("\r", "\n")
            rows = list(csv.reader(io.StringIO(text.replace("\0", ""))))
            members[name] = as_csv(mutate_rows(rng, rows or [[""]])).encode("utf-8", "replace")
        elif rng.random() < 0.2:
            members.pop(name)
            if not members:
                members["x"] = b""
        else:
            members[name] = mutate_bytes(rng, members[name])
    out = io.BytesIO()
    method = rng.choice([zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED])
    with warnings.catch_warnings(), zipfile.ZipFile(out, "w", method) as archive:
        warnings.simplefilter("ignore")  # a name that stands twice is wanted here
        for name, raw in members.items():
            archive.writestr(name, raw)
            if rng.random() < 0.01:
                archive.writestr(name, raw)
    return out.getvalue()


def start_victim(path, seed, *more):
    """Start a process that writes until it is stopped."""
    environment = {**os.environ, "PYTHONPATH": f"{TREE / 'src'}:{TREE / 'tests'}"}
    return subprocess.Popen(
        [sys.executable, "-m", "helpers.victim", str(path), str(seed), *map(str, more)],
        env=environment,
        stdout=subprocess.PIPE,
        stderr=subprocess.PIPE,
        text=True,
    )


class Target:
    """A workshop that files are thrown at."""

    def __init__(self, folder):
        self.folder = folder
        self.path = folder / "target.loam"
        self.taken = self.refused = 0

    def throw(self, name, raw):
        """Bring a file in; True when it was taken. Whatever it does, it is an answer in words."""
        file = self.folder / name
        file.write_bytes(raw)
        try:
            draft = read_file(file)
        except LoamError as error:
            self._said(error)
            self.refused += 1
            return False
        assert check_draft(draft) is None
        self._take(draft)
        self.taken += 1
        return True

    @staticmethod
    def _said(error):
        assert str(error).strip(), "a refusal without words"

    def _take(self, draft):
        """Take it in, look at it as a start would, judge it, and put the workshop away."""
        for ending in ("", "-wal", "-shm"):
            self.path.with_name(self.path.name + ending).unlink(missing_ok=True)
        workshop = Workshop(self.path)
        command = TakeInTrial(draft)
        count = len(draft.readings)
        command.write_apart(workshop.path, workshop.now())
        session = Session(workshop)
        trial = session.trial
        assert trial is not None
        assert session.panels() is not None
        assert len(session.cells()) >= len(draft.cells)
        assert session.combinations() is not None
        for measurand in asked_of(trial, False):
            try:
                judge_trial(self.path, trial.id, measurand, 1)
            except LoamError as error:
                self._said(error)
        workshop.close()
        found = check(self.path)
        assert found["ok"], found["problems"]
        assert found["trials"][0]["readings"] == count


def numbered(seed, kind, i):
    """Return the generator of one mutant, so that it can be made again."""
    return random.Random(f"{seed}:{kind}:{i}")
