"""Drivers by expected dialogue, and against the simulated meters over real pseudo-terminals."""

import threading
from contextlib import suppress
from functools import reduce

import pytest
import serial
from hypothesis import given
from hypothesis import strategies as st

from loam.core.instruments.faults import SAID, fault_words
from loam.core.instruments.line import Garbled, checksum, read_line, request, sealed
from loam.devices import meter as driver
from loam.devices.meter import METERS, Meter, MeterFault, PortLost
from loam.simulated.instruments import KINDS, FilmGauge, GlossMeter, Thermometer
from loam.simulated.serve import Bench


@pytest.fixture(autouse=True)
def impatient(monkeypatch):
    monkeypatch.setattr(driver, "TIMEOUT_S", 0.3)


class Clock:
    def __init__(self):
        self.now = 0.0

    def __call__(self):
        return self.now


class Lying:
    """What came lies in ``waiting`` until it is read."""

    def read(self, size=1):
        whole = b"".join(self.waiting)
        self.waiting = [whole[size:]] if whole[size:] else []
        return whole[:size]

    @property
    def in_waiting(self):
        return sum(len(line) for line in self.waiting)


class Script(Lying):
    """A port that expects requests and plays answers; ``{seq}`` stands for the number asked by."""

    def __init__(self, *turns):
        self.turns, self.asked, self.waiting, self.timeout = list(turns), [], [], None

    def write(self, data):
        self.asked.append(read_request(data))
        seq = self.asked[-1].split()[0]
        for line in self.turns.pop(0) if self.turns else ():
            self.waiting.append(line(seq) if callable(line) else line)
        return len(data)

    def close(self):
        self.turns = None


def read_request(data):
    body, _, mark = data.decode().strip().rpartition("*")
    assert mark == checksum(body)
    return body


def says(body):
    return lambda seq: sealed(body.replace("{seq}", seq))


GLOSS_ID = says("{seq} OK kind=gloss proto=1 serial=SIM-0001 units=GU,HU")
GLOSS = says("{seq} OK g20=84.6 g60=92.1 g85=98.8 haze=23 hazescale=log t=412.3 flag=ok")


class Direct(Lying):
    """A port straight to a simulated meter."""

    def __init__(self, instrument):
        self.instrument, self.waiting, self.timeout = instrument, [instrument.hello()], None

    def write(self, data):
        self.waiting += self.instrument.answer(data)
        return len(data)

    def close(self):
        pass


@given(
    st.text(
        st.characters(min_codepoint=32, max_codepoint=126, exclude_characters="*"),
        min_size=1,
        max_size=80,
    )
)
def test_a_checksum_is_the_exclusive_or_of_all_bytes(body):
    assert int(checksum(body), 16) == reduce(lambda a, b: a ^ b, body.encode(), 0)


@given(st.integers(0, 60), st.integers(1, 255))
def test_a_changed_byte_is_never_taken_for_a_reading(at, change):
    line = sealed("7 OK um=112.4 base=fe t=12.0 flag=ok")
    spoilt = bytearray(line)
    at %= len(line) - 1
    spoilt[at] ^= change
    with suppress(Garbled):
        assert read_line(bytes(spoilt)).raw == read_line(line).raw


@pytest.mark.parametrize(
    "line",
    [
        b"",
        b"7 OK um=1*00\n",
        sealed("7 OK um=1")[:-1],
        b"\xff\xfe\n",
        sealed("7"),
        sealed("x OK a=1"),
        sealed("7 MAYBE a=1"),
        sealed("7 OK um"),
        sealed("7 ERR x"),
        b"9" * 300 + b"\n",
        sealed("7777 OK a=1"),
    ],
)
def test_lines_that_cannot_be_trusted(line):
    with pytest.raises(Garbled):
        read_line(line)


def test_requests_are_plain_short_lines():
    assert request(7, "READ") == sealed("7 READ")
    for odd in ((1000, "READ"), (-1, "READ"), (1, "TILE", "ä"), (1, "SET", "x\n2"), (1, "A" * 130)):
        with pytest.raises(ValueError, match=r"."):
            request(*odd)


def test_a_reading_by_dialogue_keeps_everything():
    port = Script([GLOSS_ID], [GLOSS])
    meter = Meter(port, clock=lambda: 99.5)
    assert meter.identify() == "gloss"
    found = meter.read()
    assert port.asked == ["1 ID", "2 READ"]
    assert found.values == {"gloss20": 84.6, "gloss60": 92.1, "haze": 23.0}
    assert (found.scale, found.flag, found.device_s, found.host_s) == ("log", "ok", 412.3, 99.5)
    assert found.raw.startswith("2 OK g20=84.6")
    assert meter.serial == "SIM-0001"


def test_an_unanswered_and_a_garbled_line_are_asked_for_anew_with_a_new_number():
    port = Script([GLOSS_ID], [], [b"3 OK g20=99*00\n"], [GLOSS])
    meter = Meter(port)
    meter.identify()
    assert meter.read().values["gloss20"] == 84.6
    assert port.asked[1:] == ["2 READ", "3 READ", "4 READ"]
    assert meter.garbled == 1


def test_a_late_answer_to_an_older_request_is_thrown_away():
    late = sealed("2 OK g20=11.1 t=1.0")
    port = Script([GLOSS_ID], [], [late, GLOSS])
    meter = Meter(port)
    meter.identify()
    assert meter.read().values["gloss20"] == 84.6
    assert meter.stale == 1


def test_what_is_said_unasked_is_kept_and_answers_nothing():
    port = Script([sealed("! LOWBAT"), GLOSS_ID], [sealed("! LIFT"), GLOSS])
    meter = Meter(port)
    meter.identify()
    meter.read()
    assert meter.events == ["LOWBAT", "LIFT"]


@pytest.mark.parametrize("code", [*SAID, 77])
def test_every_fault_is_said_plainly_with_what_helps(code):
    port = Script([GLOSS_ID], [says(f"{{seq}} ERR {code} odd thing")])
    meter = Meter(port)
    meter.identify()
    with pytest.raises(MeterFault) as fault:
        meter.read()
    what, todo = fault_words(code, "odd thing")
    assert fault.value.what == f"The gloss meter {what}."
    assert fault.value.todo == todo
    assert len(port.asked) == 2  # a meter that says no is not asked again


def test_silence_garble_and_a_lost_port_are_three_things():
    meter = Meter(Script([GLOSS_ID]))
    meter.identify()
    with pytest.raises(MeterFault, match="no answer in 3 tries"):
        meter.read()
    meter = Meter(Script([GLOSS_ID], *[[b"x\n"]] * 3))
    meter.identify()
    with pytest.raises(MeterFault, match="changed on their way"):
        meter.read()

    class Gone(Script):
        def write(self, data):
            raise serial.SerialException("device disconnected")

    with pytest.raises(PortLost, match="is gone"):
        Meter(Gone()).ask("READ")


@pytest.mark.parametrize(
    "reply",
    [
        "{seq} OK t=1.0",
        "{seq} OK g20=nan t=1.0",
        "{seq} OK g20=x t=1.0",
        "{seq} OK g20=80.0",
        "{seq} OK g20=inf t=1.0",
    ],
)
def test_no_figure_is_no_reading(reply):
    meter = Meter(Script([GLOSS_ID], [says(reply)]))
    meter.identify()
    with pytest.raises(MeterFault, match="no figure"):
        meter.read()


def test_a_meter_of_another_kind_is_not_believed():
    for told in ("kind=colour proto=1", "kind=gloss proto=2", "proto=1"):
        with pytest.raises(MeterFault, match="does not know"):
            Meter(Script([says(f"{{seq}} OK {told}")])).identify()


@pytest.mark.parametrize("kind", KINDS)
def test_a_bad_line_never_gives_a_wrong_value(kind, monkeypatch):
    monkeypatch.setattr(driver, "TIMEOUT_S", 0.05)
    instrument = KINDS[kind](seed=4, clock=Clock())
    meter = Meter(Direct(instrument))
    assert meter.identify() == kind
    sent = []
    plain = instrument.reading
    instrument.reading = lambda: sent.append(plain()) or sent[-1]
    instrument.drop = instrument.garble = instrument.late = 0.1
    answered = failed = 0
    own = METERS[kind].reads[0]
    for _ in range(300):
        try:
            found = meter.read()
        except MeterFault:
            failed += 1
            continue
        answered += 1
        assert found.values[own[1]] in {float(s[own[0]]) for s in sent[-3:]}
    assert answered > 270
    assert answered + failed == 300
    assert meter.stale > 0
    assert meter.garbled > 0


def readings(instrument, key, count=400):
    return [float(instrument.reading()[key]) for _ in range(count)]


def test_the_simulated_meters_scatter_as_they_should():
    clock = Clock()
    gloss = GlossMeter(seed=2, clock=clock)
    cold = sum(readings(gloss, "g20")) / 400
    clock.now = 3600.0
    warm = readings(gloss, "g20")
    assert cold / (sum(warm) / 400) == pytest.approx(0.985, abs=0.004)  # warm-up
    mean = sum(warm) / 400
    sd = (sum((v - mean) ** 2 for v in warm) / 399) ** 0.5
    assert 0.4 < sd < 0.9
    film = FilmGauge(seed=2, clock=Clock())
    thick = readings(film, "um")
    assert sum(thick) / 400 == pytest.approx(112.0, abs=0.3)
    heat = Thermometer(seed=2, clock=Clock())
    assert sum(readings(heat, "c")) / 400 == pytest.approx(32.5, abs=0.3)  # cold: 1.5 K low


def test_what_is_simulated_is_told_on_the_line():
    gloss = GlossMeter(seed=1, clock=Clock())
    meter = Meter(Direct(gloss))
    meter.identify()
    meter.ask("SIM", "truth", "g20=20.0", "haze=300")
    assert meter.read().values["gloss20"] < 30.0
    meter.ask("SET", "haze", "lin")
    assert meter.read().scale == "linear"
    for words, said in ((("SIM", "lift", "1"), "lifted"), (("SIM", "fail", "30"), "low battery")):
        meter.ask(*words)
        with pytest.raises(MeterFault, match=said):
            meter.read()
    meter.ask("SIM", "fail", "0")
    meter.ask("SIM", "lift", "0")
    assert abs(meter.tile("T1")) < 3.0
    with pytest.raises(MeterFault, match="another tile"):
        meter.tile("T9")
    with pytest.raises(MeterFault, match="another tile"):
        meter.tile("T1", 45.0)
    with pytest.raises(MeterFault, match="does not take this value"):
        meter.ask("SIM", "truth", "g20=x")
    film = FilmGauge(clock=Clock())
    gauge = Meter(Direct(film))
    gauge.identify()
    gauge.ask("SET", "base", "plastic")
    with pytest.raises(MeterFault, match="cannot read this base"):
        gauge.read()


@pytest.fixture
def bench(terminals):
    served = Bench({name: kind(seed=5) for name, kind in KINDS.items()})
    going = threading.Event()
    going.set()
    thread = threading.Thread(target=served.run, args=(going.is_set,))
    thread.start()
    yield served
    going.clear()
    thread.join()
    served.close()


def test_the_same_driver_reads_real_ports(bench):
    for name, path in bench.ports.items():
        with serial.Serial(path, 9600, timeout=2.0) as port:
            meter = Meter(port)
            assert meter.identify() == name
            found = [meter.read() for _ in range(5)]
            assert all(r.flag == "ok" for r in found)
            assert len({r.raw for r in found}) == 5
        with serial.Serial(path, 9600, timeout=2.0) as port:  # closed and opened again
            assert Meter(port).identify() == name


def test_a_cable_that_is_pulled_is_said_and_the_others_go_on(bench):
    with serial.Serial(bench.ports["film"], 9600, timeout=0.3) as port:
        meter = Meter(port)
        meter.identify()
        bench.unplug("film")
        with pytest.raises(MeterFault) as fault:
            meter.read()
        assert "read by hand" in f"{fault.value.todo}".lower()
    with serial.Serial(bench.ports["ir"], 9600, timeout=2.0) as port:
        assert Meter(port).identify() == "ir"


def test_what_is_said_unasked_is_heard_without_waiting():
    port = Script()
    meter = Meter(port)
    assert meter.heard() == ""
    port.waiting += [sealed("! READY"), b"! READ*00\n", sealed("9 OK um=1.0")]
    assert [meter.heard() for _ in range(4)] == ["READY", "", "", ""]
    assert meter.garbled == 1
    meter.events.append("LIFT")
    assert meter.heard() == "LIFT"


def test_warmth_and_battery():
    port = Script([lambda seq: sealed(f"{seq} OK warm=0.40 temp=23.4 since_cal=1 bat=87")])
    assert Meter(port).state() == (0.40, 87.0)


class Babbler(Lying):
    """A port that sends a piece of ``what`` each time it is looked at, on a clock of its own."""

    def __init__(self, what, step_s):
        self.what, self.step_s, self.now, self.timeout = what, step_s, 0.0, None
        self.waiting = []

    @property
    def in_waiting(self):
        self.now += self.step_s
        self.waiting.append(self.what)
        return sum(len(piece) for piece in self.waiting)

    def write(self, data):
        return len(data)

    def close(self):
        self.closed = True


@pytest.mark.parametrize(
    ("what", "step_s", "said"),
    [
        (b"x", 0.03, "does not end"),
        (b"7 OK um=1", 0.4, "does not end"),
        (b"z" * 50, 0.1, "without a line end"),
        (b"y" * 5000, 0.001, "more than an instrument says|without a line end"),
        (sealed("900 OK um=1") * 300, 0.001, "more than"),
        (sealed("! LIFT") * 700, 0.001, "more than"),
    ],
)
@pytest.mark.parametrize("how", ["heard", "asked"])
def test_a_meter_that_babbles_is_let_go_and_named(what, step_s, said, how):
    port = Babbler(what, step_s)
    meter = Meter(port, where="tty7")
    meter._lines.clock = lambda: port.now
    meter.kind = "gloss"

    def listen():
        for _ in range(2000):
            meter.heard() if how == "heard" else meter.ask("READ")

    with pytest.raises(PortLost, match=said) as told:
        listen()
    assert "The gloss meter on tty7 babbles" in told.value.what


def test_noise_before_a_line_costs_that_line_alone():
    meter = Meter(Script([b"\x00\xff\x13", GLOSS_ID], [GLOSS_ID], [GLOSS]))
    meter.kind = ""
    assert meter.identify() == "gloss"
    assert meter.garbled == 1


def test_one_press_waits_however_often_the_button_sends():
    port = Script()
    meter = Meter(port)
    port.waiting = [sealed("! READY")] * 300
    heard = [meter.heard() for _ in range(5)]
    assert heard == ["READY", "", "", "", ""]
    port.waiting = [sealed("! READY")] * 3
    meter.forget()
    port.waiting = []
    assert meter.heard() == ""
