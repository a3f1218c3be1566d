"""What another package brings stands with what ships: a measurand, a machine, a meter."""

import json
import os
import random
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]


def loam(folder, *arguments):
    paths = f"{ROOT / 'src'}{os.pathsep}{ROOT / 'tests' / 'sample_package'}"
    return subprocess.run(
        [sys.executable, "-m", *arguments],
        capture_output=True,
        text=True,
        check=False,
        cwd=folder,
        env={**os.environ, "PYTHONPATH": paths, "QT_QPA_PLATFORM": "offscreen"},
    )


def table(folder):
    rng = random.Random(4)
    rows = ["panel,hardness,combo,cell,machine_kind,machine,reading,glätte"]
    for p, panel in enumerate(("Heron", "Teal", "Snipe")):
        for c in range(6):
            for r in range(1, 4):
                value = 60 + 6 * (c % 3) + 0.4 * p + rng.gauss(0, 0.5)
                rows.append(f"{panel},soft,{'ABC'[c % 3]},K{c + 1},wanderer,Ours,{r},{value:.1f}")
    (folder / "t.csv").write_text("\n".join(rows) + "\n")


def test_a_measurand_from_outside_is_read_judged_doubted_and_sent(tmp_path):
    table(tmp_path)
    found = loam(tmp_path, "loam", "judge", "t.csv", "--json")
    assert found.returncode == 0, found.stderr
    (judged,) = json.loads(found.stdout)[0]["measurands"]
    assert judged["measurand"] == "slip"
    assert judged["classes"][0]["leader"] == "C"
    assert "loam_sample:NOTHING (measurands) was left out" in found.stderr
    took = loam(tmp_path, "loam", "bring-in", "t.csv", "--workshop", "w.loam", "--json")
    assert json.loads(took.stdout)[0]["readings"] == 54
    assert loam(tmp_path, "loam", "write-out", "1", "t.zip", "--workshop", "w.loam").returncode == 0
    again = loam(tmp_path, "loam", "bring-in", "t.zip", "--workshop", "v.loam", "--json")
    assert json.loads(again.stdout)[0]["readings"] == 54


def test_everything_that_names_measurands_knows_it(tmp_path):
    script = tmp_path / "look.py"
    script.write_text(
        "import loam.__main__ as start\n"
        "start.bring_more()\n"
        "from loam.core.doubts import suspects\n"
        "from loam.core.machines import BY_KEY as MACHINES\n"
        "from loam.core.tiles import LIMITS\n"
        "from loam.app.questions.priorities.find import MEASURANDS\n"
        "from loam.devices.meter import METERS\n"
        "from loam.store.mapping import ROLE_BY_KEY\n"
        "assert suspects.LESS['slip'] == -4.0 and 'slip' in suspects._METERED\n"
        "assert LIMITS['slip'].usual == 50.0\n"
        "assert 'slip' in MEASURANDS['finish']\n"
        "assert 'after:slip' in ROLE_BY_KEY and 'baseline:slip' in ROLE_BY_KEY\n"
        "assert MACHINES['wanderer'].label == 'wanderer'\n"
        "assert METERS['glide'].reads == (('s', 'slip'),)\n"
        "print('known')\n"
    )
    found = subprocess.run(
        [sys.executable, script],
        capture_output=True,
        text=True,
        check=False,
        env={
            **os.environ,
            "PYTHONPATH": f"{ROOT / 'src'}{os.pathsep}{ROOT / 'tests' / 'sample_package'}",
        },
    )
    assert found.stdout.strip() == "known", found.stderr


def test_without_the_package_its_readings_are_kept_and_said(tmp_path):
    table(tmp_path)
    loam(tmp_path, "loam", "bring-in", "t.csv", "--workshop", "w.loam")
    found = subprocess.run(
        [sys.executable, "-m", "loam", "check", "w.loam", "--json"],
        capture_output=True,
        text=True,
        check=False,
        cwd=tmp_path,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src")},
    )
    said = json.loads(found.stdout)
    assert "slip" in " ".join(said["problems"])
