"""What is heard at work: lines, passes, the last one and the end, from shipped sounds."""

import wave

import pytest
from PyQt6.QtCore import Qt

from helpers.bench import MOTIONS, Bench, press
from loam.core.dose.stage import settings_for
from loam.core.pacer import Pacer, track_of
from loam.core.trial import Stage
from loam.ui import sounds
from loam.ui.pacing_sounds import END, LAST, LINE, PASS, PLACE, told

K = Qt.Key


def heard_of(passes, step=0.25):
    """Run a track on a clock of our own, and write down what would be heard."""
    stage = Stage(
        "Down",
        "Silt 1",
        "Dipper 15",
        "foam-soft",
        "fine",
        "free-orbital",
        passes,
        pad_mm=75.0,
        orbit_mm=15.0,
        speed=3900.0,
        arm_mm_s=40.0,
        overlap=0.5,
        force_n=30.0,
    )
    track = track_of(settings_for(stage, 300.0, 300.0).section)
    now = [0.0]
    pacer = Pacer(track, lambda: now[0])
    pacer.start()
    before, heard = pacer.moment(), []
    while now[0] < track.whole_s + 1.0:
        now[0] += step
        moment = pacer.moment()
        name = told(before, moment)
        heard += [name] if name else []
        before = moment
    return heard, track


def test_every_line_pass_and_end_is_heard_once():
    heard, track = heard_of(3)
    assert heard[-1] == END
    assert heard.count(END) == heard.count(LAST) == 1
    assert heard.count(PASS) == 1
    assert heard.index(PASS) < heard.index(LAST)
    corners = track.points_mm.shape[0]
    assert corners * 0.4 < heard.count(LINE) <= corners
    assert heard_of(1)[0].count(LAST) == 0


@pytest.mark.parametrize("name", [LINE, PASS, LAST, END])
def test_the_sounds_are_short_loud_and_shipped(name):
    with wave.open(str(PLACE / f"{name}.wav")) as sound:
        seconds = sound.getnframes() / sound.getframerate()
        loudest = max(abs(int.from_bytes(f, "little", signed=True)) for f in _frames(sound))
    assert 0.04 < seconds < 1.0
    assert loudest > 0.8 * 32767


def _frames(sound):
    data = sound.readframes(sound.getnframes())
    return (data[i : i + 2] for i in range(0, len(data), 2))


def test_they_can_be_off_and_a_missing_player_is_no_fault(open_window, wait_for, monkeypatch):
    window = open_window(demo=True)
    window.turn_to(window.session.trials()[MOTIONS].id)
    window.go("work")
    wait_for(window)
    bench = Bench(window)
    played = []
    monkeypatch.setattr(bench.runner.ear, "play", played.append)
    bench.prepare()
    press(K.Key_Space)
    for _ in range(4):
        bench.later(4.0)
    assert LINE in played
    played.clear()
    window.session.remember(sounds.KEY, sounds.OFF)
    for _ in range(4):
        bench.later(4.0)
    assert not played
    monkeypatch.undo()
    bench.runner.ear.player = ("/nowhere/player", ())
    bench.runner.ear.play(LINE)
    assert bench.runner.ear.player is None, "the bell stands for it from now on"


def test_what_was_gone_over_stays_seen_until_the_next_pass():
    _, track = heard_of(2)
    now = [0.0]
    pacer = Pacer(track, lambda: now[0])
    pacer.start()
    now[0] = track.spread_s + 0.5 * (track.pass_start(2) - track.spread_s)
    half = pacer.moment()
    assert 2 < len(half.behind_mm) < len(track.points_mm) / 2 + 1
    assert tuple(half.behind_mm[-1]) == (half.x_mm, half.y_mm)
    now[0] = track.pass_start(2) + 0.01
    assert len(pacer.moment().behind_mm) <= 2
