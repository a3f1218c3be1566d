"""Naming pads, compounds and machines: what they are is asked, corrected, and kept on the shelf."""

from dataclasses import replace

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from helpers.hands import press
from loam.app.presenters.even_ground import even_ground
from loam.core.dose import section_dose
from loam.core.dose.first import first_taping
from loam.core.dose.stage import settings_for
from loam.core.trial import Stage
from loam.core.words.dose import ROOM_MM
from loam.store import kit

K = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.mark.parametrize("machine", ["free-orbital", "forced-orbital", "rotary"])
@pytest.mark.parametrize("pad", [75.0, 125.0, 150.0])
def test_a_first_panel_has_even_ground_for_its_pad(pad, machine):
    stage = Stage("p", "c", "m", machine_kind=machine, pad_mm=pad)
    taping = first_taping([stage], ROOM_MM)
    assert taping.rows * taping.columns >= 6
    given = settings_for(stage, taping.cell_width_mm, taping.cell_height_mm)
    assert section_dose(given.section).circle_mm >= ROOM_MM


def test_no_pad_is_too_large_for_a_first_panel_to_be_taped():
    assert first_taping([Stage("p", "c", "m", pad_mm=400.0)], ROOM_MM).rows >= 2
    assert first_taping([], ROOM_MM).rows >= 2


def write(window, text, then=None):
    QTest.keyClicks(QApplication.focusWidget() or window, text)
    if then is not None:
        QTest.keyClick(QApplication.focusWidget() or window, then)
    QApplication.processEvents()


def at():
    return QApplication.focusWidget().objectName()


@pytest.fixture
def naming(open_window):
    """A new trial with one combination, the keyboard on its pad."""
    window = open_window()
    press(window, K.Key_N, CTRL)
    write(window, "Fine or coarse")
    window.go("kit")
    press(window, K.Key_N, CTRL)
    assert at() == "pad"
    return window


def test_tab_goes_round_the_machine_and_then_over_the_section(naming):
    seen = [at()]
    for _ in range(9):
        press(naming, K.Key_Tab)
        seen.append(at())
    assert seen == [
        "pad",
        "compound",
        "machine",
        "force_n",
        "dial",
        "speed",
        "orbit_mm",
        "pad_mm",
        "arm_mm_s",
        "overlap",
    ]


def test_what_is_not_known_is_asked_after_its_name(naming):
    form = naming.view.form
    write(naming, "Sallow", K.Key_Return)
    assert at() == "chip"
    assert form.material.isVisibleTo(form)
    press(naming, K.Key_Right)
    press(naming, K.Key_Return)
    assert naming.session.combinations()[0].stages[0].pad_material == "foam"
    assert at() == "compound"
    write(naming, "Fine Two", K.Key_Return)  # its name says what it is for
    assert naming.session.combinations()[0].stages[0].compound_class == "fine"
    assert at() == "machine"


def test_another_name_on_a_copy_asks_anew(naming):
    session, form = naming.session, naming.view.form
    for name, kind in (("Sallow", "microfibre"), ("Grist", "coarse"), ("Mill", "rotary")):
        write(naming, name, K.Key_Return)
        next(
            b
            for k, b in {
                **form.material.buttons,
                **form.grade.buttons,
                **form.motion.buttons,
            }.items()
            if k == kind
        ).click()
    press(naming, K.Key_D, CTRL)
    assert session.combinations()[1].stages == session.combinations()[0].stages
    form.pad.line.selectAll()
    write(naming, "Osier", K.Key_Tab)
    form.compound.line.selectAll()
    write(naming, "Grist fine", K.Key_Tab)
    first, second = (c.stages[0] for c in session.combinations())
    assert (first.pad_material, first.compound_class) == ("microfibre", "coarse")
    assert (second.pad_material, second.compound_class) == ("", "fine")
    assert "of what?" in form.things["pad"].caption
    form.pad.line.setFocus()
    form.pad.line.selectAll()
    write(naming, "sallow", K.Key_Tab)  # the shelf knows it
    assert session.combinations()[1].stages[0].pad_material == "microfibre"


def test_what_is_corrected_is_corrected_on_the_shelf_and_wherever_it_is_named(naming):
    session, form = naming.session, naming.view.form
    write(naming, "Sallow", K.Key_Return)
    form.material.buttons["wool"].click()
    press(naming, K.Key_D, CTRL)

    def shelf():
        found = kit.things(session.workshop.connection, kit.PAD_KIND)
        return [t.facts.get("material") for t in found if t.name == "Sallow"]

    assert shelf() == ["wool"]
    form.material.buttons["foam"].click()
    assert shelf() == ["foam"]
    assert [c.stages[0].pad_material for c in session.combinations()] == ["foam", "foam"]
    session.undo()
    assert shelf() == ["wool"]
    assert [c.stages[0].pad_material for c in session.combinations()] == ["wool", "wool"]
    session.redo()
    assert shelf() == ["foam"]
    stage = replace(session.combinations()[0].stages[0])
    assert stage.pad_material == "foam"


def test_the_first_panel_offered_has_even_ground_for_what_was_named(naming):
    write(naming, "Sallow", K.Key_Return)
    press(naming, K.Key_F4)
    press(naming, K.Key_N, CTRL)
    (panel,) = naming.session.panels()
    ground = even_ground(naming.session.combinations(), panel.taping)
    assert min(ground.values()) >= ROOM_MM
