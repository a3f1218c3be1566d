"""A process that types readings and takes trials in until it is killed; it says what was told."""

import random
import sys
import threading
from contextlib import suppress
from pathlib import Path

from loam.app.commands import Note, TakeInTrial, take_reading
from loam.app.session import Session
from loam.core.errors import LoamError
from loam.core.trial import Reading
from loam.demo.scenario import motions
from loam.store import noted
from loam.store.workshop import Workshop


def limit(size):
    """Let no file grow beyond so many bytes, as on a full disk."""
    import resource
    import signal

    signal.signal(signal.SIGXFSZ, signal.SIG_IGN)
    resource.setrlimit(resource.RLIMIT_FSIZE, (size, size))


def main():
    """Run: PATH SEED [BYTES], the most that a file may hold."""
    path, seed = Path(sys.argv[1]), int(sys.argv[2])
    rng = random.Random(seed)
    workshop = Workshop(path)
    session = Session(workshop)
    session.choose(next(t.id for t in session.trials() if not t.name.startswith("in ")))
    full = len(sys.argv) > 3
    if full:
        limit(int(sys.argv[3]))
    lock = threading.Lock()

    def tell(*words):
        with lock:
            print(*words, flush=True)

    def bring():
        from dataclasses import replace

        for i in range(1 if full else 1000):
            draft = motions()
            name = f"in {seed} {i}"
            draft = replace(draft, trial=replace(draft.trial, name=name))
            try:
                TakeInTrial(draft).write_apart(path, workshop.now())
            except LoamError:
                tell("FAILED", name)
                continue
            tell("TAKEN", name)

    worker = threading.Thread(target=bring, daemon=True)
    worker.start()
    cell = session.cells()[0].id
    ordinal = 0
    while worker.is_alive() or not full:
        ordinal += 1
        value = round(rng.uniform(70, 95), 1)
        reading = Reading(0, cell, "gloss20", value, ordinal=100 * seed + ordinal)
        try:
            session.run(take_reading(session.trial_id or 0, reading))
        except LoamError:
            if full:
                worker.join()
                break
            continue
        tell("READ", 100 * seed + ordinal, value)
        if ordinal % 3 == 0:
            with suppress(LoamError):
                session.run(Note(session.trial_id or 0, noted.TILE, {"n": 100 * seed + ordinal}))
                tell("NOTED", 100 * seed + ordinal)
    tell("END")


if __name__ == "__main__":
    main()
