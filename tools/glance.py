"""Make one page that shows fifteen screens to a fresh reader, five seconds each, and asks of them.

The page needs nothing else and can be sent to anybody: it shows a picture, hides it, asks what it
told, and at the end lays the reader's words beside what was to be told, to be kept as a text.
"""

import base64
import html
import json
import os
import sys
import tempfile
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tools")]

SECONDS = 5
MEANT = {
    "judge": "What to use on each hardness, and how surely.",
    "drivers": "What makes the difference (pad, compound, machine, passes), if it can be told.",
    "doubts": "What to check before the ranking is trusted, and what to do about each.",
    "price": "How deep each combination bites for what it gives, and where no more may go.",
    "gauge": "Whether the meter is good enough, and who reads high or low.",
    "carried": "Whether anything else moves the result; whether makers' claims hold.",
    "priorities": "Who wins when finish, removal or clear kept matters most.",
    "pooled": "Who leads when several trials are taken as one.",
    "stages": "Which stage earns its place, and which can be left out.",
    "next": "Whether more cells are worth their time, and which.",
    "work": "Which cell is worked now, with what, which pass of how many, how long is left.",
    "read": "Which cell is read now, which reading of how many, whether that is enough.",
    "kit": "What a stage is made of and how it is set; what that does to a cell.",
    "panels": "The film of a panel: what was read where, and how much of its clear may go.",
    "layout": "Which combination goes into which cell, and what the trial will tell.",
}
"""What each screen is to tell, whatever the readings are; in the order of the path back."""


def said_by(name, view):
    """Return what Loam itself says on a screen of Judge; "" where the picture alone tells."""
    page = getattr(getattr(view, "questions", None), "page", None)
    found = getattr(page, "found", None)
    if name == "judge":
        return view.chart.accessibleDescription()
    if name == "doubts":
        return " ".join(one.head for one in view.doubts.found)
    if name == "drivers":
        return " ".join(f"{c.hardness.capitalize()}: {c.briefly}." for c in found.classes)
    if name == "price":
        return " ".join(f"{c.hardness.capitalize()}: {c.advice}" for c in found.classes)
    if name == "gauge":
        return view.pages.currentWidget().lead.text()
    return page.lead.text() if page is not None and hasattr(page, "lead") else ""


def screens():
    """Return (name, picture, what Loam says) of each screen, taken from the demo."""
    from PyQt6.QtWidgets import QApplication
    from shots import Studio

    application = QApplication([])
    found = {}

    class Told(Studio):
        def take(self, name, window=None):
            super().take(name, window)
            if name in MEANT and window is None:
                found[name] = said_by(name, self.window.view)

    with tempfile.TemporaryDirectory() as place:
        folder = Path(place) / "pictures"
        folder.mkdir()
        studio = Told(application, Path(place), folder, list(MEANT), (1280, 800))
        studio.judging()
        studio.planning()
        studio.working()
        studio.reading()
        taken = [(n, (folder / f"{n}.png").read_bytes(), found.get(n, "")) for n in MEANT]
        studio.window.close()
        studio.window.session.close()
    return taken


def page(shown, seconds=SECONDS):
    """Return the page for some (name, picture, what Loam says)."""
    data = [
        {
            "name": name,
            "picture": f"data:image/png;base64,{base64.b64encode(picture).decode('ascii')}",
            "meant": MEANT.get(name, ""),
            "says": said,
        }
        for name, picture, said in shown
    ]
    held = json.dumps(data).replace("</", "<\\/")
    title = html.escape("Five seconds a screen")
    return (
        _PAGE.replace("@title@", title).replace("@data@", held).replace("@seconds@", str(seconds))
    )


_PAGE = """<!DOCTYPE html>
<html lang="en"><head><meta charset="utf-8"><title>@title@</title>
<style>
body { font: 17px/1.4 sans-serif; color: #1C2420; background: #E9ECE6; margin: 24px auto;
       max-width: 1290px; padding: 0 8px; }
img { width: 100%; height: auto; display: block; }
textarea { width: 100%; box-sizing: border-box; font: inherit; padding: 8px; height: 5.5em; }
button { font: inherit; background: #DAD7A4; color: #2C2B14; border: 0; padding: 8px 18px; }
table { border-collapse: collapse; width: 100%; } td, th { text-align: left; padding: 8px;
        vertical-align: top; border-bottom: 1px solid #C9CFC6; } td img { width: 260px; }
label { display: block; margin: 10px 0 4px; }
</style></head><body><main id="main"></main>
<script>
const screens = @data@, seconds = @seconds@, told = [], order = screens.map((_, i) => i);
for (let i = order.length - 1; i > 0; i--) {
  const k = Math.floor(Math.random() * (i + 1));
  [order[i], order[k]] = [order[k], order[i]];
}
const main = document.getElementById("main");
function put(tag, text, parent) {
  const made = document.createElement(tag);
  if (text) made.textContent = text;
  (parent || main).appendChild(made);
  return made;
}
function press(text, act) {
  const made = put("button", text);
  made.onclick = act;
  made.focus();
  return made;
}
function begin() {
  put("h1", "Five seconds a screen");
  put("p", "You see " + screens.length + " screens of a program that you need not know, " +
      seconds + " seconds each. After each one say what it told you. There is no wrong answer: " +
      "what you did not see is a fault of the screen.");
  press("show the first", () => show(0));
}
function show(at) {
  main.textContent = "";
  if (at === order.length) return end();
  const image = put("img");
  image.alt = "";
  image.onload = () => setTimeout(() => ask(at), 1000 * seconds);
  image.src = screens[order[at]].picture;
}
function ask(at) {
  main.textContent = "";
  put("p", (at + 1) + " of " + order.length);
  const fields = ["What did it tell you?", "What would you do next?",
                  "What did you not understand, or take for something else?"].map((asked) => {
    const label = put("label", asked), field = document.createElement("textarea");
    label.appendChild(field);
    return field;
  });
  press(at + 1 < order.length ? "next" : "done", () => {
    told.push({ name: screens[order[at]].name, told: fields[0].value, next: fields[1].value,
                unclear: fields[2].value });
    show(at + 1);
  });
  fields[0].focus();
}
function end() {
  put("h1", "What you said, and what was to be told");
  const table = put("table"), head = put("tr", "", table);
  ["screen", "you", "it was to tell", "Loam says", "told right"].forEach((n) => put("th", n, head));
  for (const one of told) {
    const own = screens.find((s) => s.name === one.name), row = put("tr", "", table);
    put("img", "", put("td", "", row)).src = own.picture;
    put("td", [one.told, one.next, one.unclear].filter(Boolean).join(" / "), row);
    put("td", own.meant, row);
    put("td", own.says, row);
    const right = document.createElement("input");
    right.type = "checkbox";
    right.setAttribute("aria-label", "told right: " + one.name);
    right.onchange = () => { one.right = right.checked; };
    put("td", "", row).appendChild(right);
  }
  press("keep as a text", () => {
    const lines = told.map((t) => t.name + ": " + (t.right ? "right" : "not right") +
        "\\n  told: " + t.told + "\\n  next: " + t.next + "\\n  unclear: " + t.unclear + "\\n");
    const link = document.createElement("a");
    link.href = URL.createObjectURL(new Blob([lines.join("\\n")], { type: "text/plain" }));
    link.download = "five-seconds.txt";
    link.click();
  });
}
begin();
</script></body></html>
"""


def main(arguments):
    """Write the page: [FILE]."""
    path = Path(arguments[0]) if arguments else Path("five-seconds.html")
    path.write_text(page(screens()), encoding="utf-8")
    print(f"{path}: {len(MEANT)} screens. Open it in any browser; it needs no network.")


if __name__ == "__main__":
    main(sys.argv[1:])
