"""A report on paper or in a file: HTML and PDF with its pictures, a workbook, a Data Package."""

from __future__ import annotations

import html
import tempfile
from collections.abc import Callable, Iterator, Mapping, Sequence
from pathlib import Path
from typing import Any

from PyQt6.QtCore import QMarginsF, QRectF, QSizeF, Qt, QTimer, QUrl
from PyQt6.QtGui import (
    QImage,
    QPageLayout,
    QPageSize,
    QPainter,
    QPdfWriter,
    QTextBlockFormat,
    QTextCharFormat,
    QTextCursor,
    QTextDocument,
)

from loam.app.questions import questions
from loam.app.questions.question import Asked
from loam.app.report import ADVICE, FAULTS, Report, Section, Table, make_report
from loam.core.errors import LoamError
from loam.core.trial import Combination
from loam.core.units import percent
from loam.store.report_file import write_tables, write_workbook
from loam.store.safe_files import written_whole
from loam.ui.picture_out import Picture, as_image, save_picture
from loam.ui.theme.look import unjoined
from loam.ui.views.judge.questions import on_screen
from loam.ui.views.judge.ranking.paint import draw_ranking
from loam.ui.worker import Jobs

WIDE = 1120.0
MOST_LINES = 400
PAGE = "page-break-before: always"
HELD = 110.0
"""What a heading needs below it on its page, px: its table's own heading and some lines."""
ALT = "@alt@"
"""Stands in a picture's mark-up for what is told of it."""
_STYLE = """
body { font-family: "Source Sans 3", sans-serif; color: #1C2420; background: #FFFFFF;
       max-width: 1160px; margin: 24px auto; padding: 0 16px; line-height: 1.4; }
h1 { font-size: 28px; margin-bottom: 0; } h2 { font-size: 20px; margin-top: 28px; }
table { border-collapse: collapse; font-size: 13px; margin: 8px 0 16px 0; }
th { text-align: left; border-bottom: 2px solid #1C2420; padding: 3px 10px 3px 0; }
td { border-bottom: 1px solid #C9CFC6; padding: 3px 10px 3px 0; }
caption { text-align: left; color: #56615A; padding-bottom: 2px; }
svg, img { max-width: 100%; height: auto; }
.lead { font-size: 17px; margin: 6px 0; }
h2 { break-after: avoid; } thead { display: table-header-group; } tr, svg { break-inside: avoid; }
"""
Draw = Callable[[QPainter, QRectF], object]


def _drawn(
    key: str, found: Any, combinations: Mapping[str, Combination]
) -> list[tuple[float, Draw]]:
    """Return how high each picture of a part is, and what draws it."""
    if key.startswith("ranking:"):
        high = 150.0 * len(found.strips) + 60.0
        return [(high, lambda p, a: draw_ranking(p, a, found, combinations))]
    if key == "advice":
        ranking, advice = found
        high = 150.0 * len(ranking.strips) + 60.0
        return [(high, lambda p, a: draw_ranking(p, a, ranking, combinations, advice=advice))]
    question = next(q for q in questions() if q.name == key)
    return list(on_screen(question, "paint").figures(found))


Drawing = bytes | QImage


def drawings(
    report: Report, combinations: Sequence[Combination], ending: str
) -> Iterator[tuple[str, Drawing]]:
    """Draw one picture after the other, so that the window may breathe between two.

    For a page of HTML each is an SVG, for paper an image; numbers alone have none.
    """
    if ending == ".xlsx":
        return
    by_code = {c.code: c for c in combinations}
    for key, data in report.pictures.items():
        for high, draw in _drawn(key, data, by_code):
            picture = Picture(key, "", "", WIDE, high, _or_said(draw))
            if ending == ".pdf":
                yield key, as_image(picture, 1.4)
                continue
            with tempfile.TemporaryDirectory() as place:
                path = Path(place) / "picture.svg"
                save_picture(picture, path)
                yield key, path.read_bytes()


def _or_said(draw: Draw) -> Draw:
    """Return what draws a picture, and where that fails says so: the rest of the report stands."""

    def drawn(painter: QPainter, area: QRectF) -> object:
        painter.save()
        try:
            return draw(painter, area)
        except FAULTS as error:
            painter.restore()
            painter.save()
            said = f"This picture could not be drawn ({type(error).__name__}). The figures stand."
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, said)
            return None
        finally:
            painter.restore()

    return drawn


def _body(report: Report, pictures: Mapping[str, Sequence[str]]) -> Iterator[str]:
    """Return the body of the page part by part; ``pictures`` holds the mark-up of each."""
    yield f"<h1>{html.escape(report.title)}</h1>\n<p>{html.escape(report.when)}</p>"
    for section in report.sections:
        page = f' style="{PAGE}"' if _begins_page(section) else ""
        parts = [f"<h2{page}>{html.escape(section.head)}</h2>"]
        lead = ' class="lead"' if section.head == ADVICE else ""
        parts += [f"<p{lead}>{html.escape(said)}</p>" for said in section.words if said]
        told = html.escape(f"Picture: {section.head}. {' '.join(section.words)}"[:400], quote=True)
        parts += [f"<p>{mark.replace(ALT, told)}</p>" for mark in pictures.get(section.picture, ())]
        yield "\n".join(parts)
        yield from (_table(t) for t in _shown(section))


def _begins_page(section: Section) -> bool:
    """Whether a part begins a page on paper: every question does, the advice does not."""
    return bool(section.picture) and section.head != ADVICE


def _shown(section: Section) -> list[Table]:
    """Return the tables that have a line."""
    return [t for t in section.tables if len(t.rows) > 1]


def _table(table: Table) -> str:
    head, *rows = table.rows
    cut = rows[:MOST_LINES]
    heads = "".join(f"<th>{html.escape(c)}</th>" for c in head)
    lines = [f"<thead><tr>{heads}</tr></thead>"]
    lines += ["<tr>" + "".join(f"<td>{html.escape(c)}</td>" for c in row) + "</tr>" for row in cut]
    more = f" (the first {MOST_LINES} of {len(rows)} lines)" if len(cut) < len(rows) else ""
    title = f"<caption>{html.escape(table.title)}{more}</caption>"
    return f'<table cellspacing="0">{title}{"".join(lines)}</table>'


def _as_html(report: Report, drawn: Sequence[tuple[str, Drawing]]) -> str:
    """Return a report as one page that needs nothing else."""
    marks: dict[str, list[str]] = {}
    for key, svg in drawn:
        if isinstance(svg, bytes):
            mark = svg[svg.index(b"<svg") :].decode("utf-8")
            mark = mark.replace("<svg", f'<svg role="img" aria-label="{ALT}"', 1)
            marks.setdefault(key, []).append(mark)
    title, body = html.escape(report.title), "\n".join(_body(report, marks))
    return (
        f'<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8"><title>{title}</title>'
        f"<style>{_STYLE}</style></head>\n<body>\n{body}\n</body></html>\n"
    )


def _write_pdf(
    report: Report, drawn: Sequence[tuple[str, Drawing]], path: Path, tell: Callable[[float], None]
) -> None:
    document = QTextDocument()
    document.setDefaultFont(unjoined(document.defaultFont()))
    marks: dict[str, list[str]] = {}
    for i, (key, image) in enumerate(drawn):
        name = f"picture:{i}"
        kind = int(QTextDocument.ResourceType.ImageResource.value)
        document.addResource(kind, QUrl(name), image)
        marks.setdefault(key, []).append(f'<img src="{name}" width="690" alt="{ALT}">')
    document.setDefaultStyleSheet(
        "body { font-family: 'Source Sans 3'; font-size: 10pt; } th { text-align: left; }"
        " td, th { padding: 1px 8px 1px 0; font-size: 8pt; } h1 { font-size: 18pt; }"
        " h2 { font-size: 13pt; }"
    )
    with written_whole(path, "Everything is safe in the workshop.") as beside:
        writer = QPdfWriter(str(beside))
        writer.setTitle(report.title)
        writer.setResolution(96)
        writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
        writer.setPageMargins(QMarginsF(14, 14, 14, 14), QPageLayout.Unit.Millimeter)
        wide, high = float(writer.width()), float(writer.height())
        document.setPageSize(QSizeF(wide, high))
        cursor = QTextCursor(document)
        for part in _body(report, marks):  # laid out part by part: the window may breathe between
            cursor.movePosition(QTextCursor.MoveOperation.End)
            if document.characterCount() > 1:
                cursor.insertBlock(QTextBlockFormat(), QTextCharFormat())
                if PAGE in part[:80] or _left(document, cursor, high) < HELD:
                    block = QTextBlockFormat()
                    block.setPageBreakPolicy(QTextBlockFormat.PageBreakFlag.PageBreak_AlwaysBefore)
                    cursor.setBlockFormat(block)
            cursor.insertHtml(part)
            document.pageCount()
            tell(0.85)
        painter = QPainter()
        if not painter.begin(writer):
            raise OSError(0, "the report could not be drawn there")
        for page in range(document.pageCount()):  # page by page: the window may breathe between
            if page:
                writer.newPage()
            painter.save()
            painter.translate(0.0, -page * high)
            document.drawContents(painter, QRectF(0.0, page * high, wide, high))
            painter.restore()
            _numbered(painter, report, page, document.pageCount(), QRectF(0.0, high, wide, 18.0))
            tell(0.9 + 0.1 * page / document.pageCount())
        painter.end()
        if not beside.stat().st_size:
            raise OSError(0, "the report could not be drawn there")


def _left(document: QTextDocument, cursor: QTextCursor, high: float) -> float:
    """Return how much of its page lies below a block that was just begun, px."""
    layout = document.documentLayout()
    assert layout is not None
    return high - layout.blockBoundingRect(cursor.block()).top() % high


def _numbered(painter: QPainter, report: Report, page: int, count: int, foot: QRectF) -> None:
    """Write what it is, of when, and which page, in the lower margin."""
    painter.save()
    font = unjoined(painter.font())
    font.setPointSizeF(8.0)
    painter.setFont(font)
    middle = Qt.AlignmentFlag.AlignVCenter
    painter.drawText(foot, middle | Qt.AlignmentFlag.AlignLeft, f"{report.title}, {report.when}")
    painter.drawText(foot, middle | Qt.AlignmentFlag.AlignRight, f"{page + 1} of {count}")
    painter.restore()


def write_report(
    report: Report,
    drawn: Sequence[tuple[str, Drawing]],
    path: Path,
    tell: Callable[[float], None] = lambda _share: None,
) -> None:
    """Write a report as its ending says: HTML, PDF, XLSX, or a zipped Data Package.

    Nothing is drawn on a widget here, so a worker may do it; ``tell`` is told the share done and
    may raise to stop, and then nothing is left.

    Raises
    ------
    LoamError
        For another ending, or when the place or the disk refuses; nothing is left then.
    """
    every = (*report.tables(), *report.data)
    tables = [(t.name, t.title, t.rows) for t in every if len(t.rows) > 1]
    ending = path.suffix.lower()
    if ending == ".html":
        page = _as_html(report, drawn)
        with written_whole(path, "Everything is safe in the workshop.") as beside:
            beside.write_text(page, encoding="utf-8")
    elif ending == ".pdf":
        _write_pdf(report, drawn, path, tell)
    elif ending == ".xlsx":
        write_workbook(tables, path, (report.title, report.when, *report.cover))
    elif ending == ".zip":
        page = _as_html(report, drawn)
        write_tables(report.title, tables, [("report.html", page.encode("utf-8"))], path)
    else:
        raise LoamError(
            f"A report is not written as {ending or 'a file without an ending'}.",
            where=str(path),
            todo="Let the name end in .html, .pdf, .xlsx or .zip.",
        )


class ReportWriter:
    """Puts a report together on the worker, draws it here picture by picture, writes it there."""

    def __init__(
        self,
        jobs: Jobs,
        told: Asked,
        path: Path,
        say: Callable[[str], None],
        refuse: Callable[[LoamError], None],
    ) -> None:
        self.jobs, self.told, self.path = jobs, told, path
        self.say, self.refuse = say, refuse
        self.drawn: list[tuple[str, Drawing]] = []
        self.busy = True
        jobs.progress.connect(self._told)
        self._told("report", 0.0)
        tell = jobs.teller("report")
        jobs.start("report", lambda: make_report(told, tell), self._made, self._refused, stays=True)

    def stop(self) -> None:
        """Write nothing after all."""
        self._end()
        self.jobs.cancel("report")
        self.say("The report was stopped; nothing was written.")

    def _end(self) -> None:
        self.busy = False
        self.jobs.progress.disconnect(self._told)

    def _told(self, job: str, share: float) -> None:
        if job == "report" and self.busy:
            self.say(f"Putting the report together … {percent(share)}; O stops it.")

    def _refused(self, error: LoamError) -> None:
        self._end()
        self.refuse(error)

    def _written(self, _: object) -> None:
        self._end()
        self.say(f"Written: {self.path}")

    def _made(self, report: Report) -> None:
        self.report = report
        self.left = drawings(report, self.told.combinations, self.path.suffix.lower())
        self._step()

    def _step(self) -> None:
        if not self.busy:
            return
        try:
            one = next(self.left, None)
        except LoamError as error:
            self._refused(error)
            return
        if one is not None:
            self.drawn.append(one)
            self._told("report", 0.5 + 0.3 * len(self.drawn) / (len(self.drawn) + 3))
            QTimer.singleShot(0, self._step)
            return
        report, drawn, path = self.report, self.drawn, self.path
        tell = self.jobs.teller("report")
        self.jobs.start(
            "report",
            lambda: write_report(report, drawn, path, tell),
            self._written,
            self._refused,
            stays=True,
        )
