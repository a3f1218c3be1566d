"""A field is added to a panel by one declaration: everything else follows from it."""

import os
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).parents[2]
SCRIPT = """
import sys
from pathlib import Path

import loam.core.record.panel_facts as declared
from loam.core.kit.facts import NUMBER, Fact

declared.PANEL_FACTS += (Fact("bow_mm", "Bows by", NUMBER, unit="mm", low=0.0, high=50.0),)

from PyQt6.QtWidgets import QApplication

from loam.app.bring_in import read_file
from loam.app.headless.check import check
from loam.app.joining import join_apart
from loam.core.errors import LoamError
from loam.store.datapackage import read_package, write_package
from loam.store.flat import write_flat
from loam.store.mapping import guess_mapping
from loam.store.take_in import write_draft
from loam.store.take_out import read_draft
from loam.store.workshop import Workshop
from loam.ui.start import make_window

folder = Path(sys.argv[1])
head = "panel,hardness,combo,cell,gloss20,panel_bow_mm\\n"
table = folder / "t.csv"
table.write_text(head + "Heron,soft,A,K1,84,1.5\\nTeal,soft,A,K1,83,\\n")
assert guess_mapping(["panel_bow_mm"]) == {"panel_bow_mm": "panel_bow_mm"}
bad = folder / "bad.csv"
bad.write_text(head + "Heron,soft,A,K1,84,99\\n")
try:
    read_file(bad)
except LoamError as error:
    assert "Bows by" in str(error) and "line 2" in str(error), error
else:
    raise AssertionError("99 mm was taken")

workshop = Workshop(folder / "w.loam")
with workshop.transaction() as db:
    write_draft(db, read_file(table), workshop.now())
app = QApplication([])
window = make_window(app, workshop)
window.show()
window.go("panels")
while not window.view.on_build:
    window.view.turn_page()
app.processEvents()
sheet = window.view.film
window.grab().save(str(folder / "build.png"))
assert sheet.known["bow_mm"].text() == "1.5"
sheet.known["bow_mm"].kept.emit("2.25")
assert window.session.panels()[0].facts == {"bow_mm": 2.25}
sheet.known["bow_mm"].kept.emit("77")
assert "between 0 and 50 mm" in sheet.known["bow_mm"].error.text()
assert window.session.panels()[0].facts == {"bow_mm": 2.25}
assert "bows by" in window.view.table()[0] and "2.25" in window.view.table()[1]
window.session.undo()
assert window.session.panels()[0].facts == {"bow_mm": 1.5}
window.session.redo()

draft = read_draft(workshop.connection, 1)
write_package(draft, folder / "t.zip")
assert read_package(folder / "t.zip").panels[0].facts == {"bow_mm": 2.25}
write_flat(draft, folder / "flat.csv")
assert read_file(folder / "flat.csv").panels[0].facts == {"bow_mm": 2.25}
assert join_apart(workshop.path, 1, read_package(folder / "t.zip"), workshop.now()).changed == 0
assert check(workshop.path)["ok"]
window.close()
workshop.close()
print("one declaration")
"""


def test_one_declaration_is_all_that_a_field_of_a_panel_takes(tmp_path):
    script = tmp_path / "declare.py"
    script.write_text(SCRIPT)
    found = subprocess.run(
        [sys.executable, script, tmp_path],
        capture_output=True,
        text=True,
        check=False,
        env={**os.environ, "PYTHONPATH": str(ROOT / "src"), "QT_QPA_PLATFORM": "offscreen"},
    )
    assert found.stdout.strip() == "one declaration", found.stderr
