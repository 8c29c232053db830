"""The inspector: tells about the selected thing. Its first question is why."""

from __future__ import annotations

import html
import os
import textwrap
from pathlib import Path

from PySide6.QtCore import Qt, QUrl
from PySide6.QtWidgets import QTextBrowser, QVBoxLayout, QWidget

from mevrik.compare.ledger import Entry, Ledger
from mevrik.design.time import show_time
from mevrik.design.values import Logic, show
from mevrik.desktop import theme
from mevrik.desktop.session import Session
from mevrik.desktop.strip import verdict
from mevrik.explain.origin import origin
from mevrik.explain.why import Why, why
from mevrik.waves.record import RecordError

CONTEXT = 2  # lines shown before and after a statement


class Inspector(QWidget):
    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMinimumWidth(200)
        self.view = QTextBrowser()
        self.view.setOpenLinks(False)
        self.view.setFrameShape(QTextBrowser.Shape.NoFrame)
        self.view.setAccessibleName("Inspector")
        self.view.anchorClicked.connect(self._follow)
        self.view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 2, 6)
        layout.addWidget(self.view)
        for signal in (session.selection_changed, session.subject_changed, session.findings_changed):
            signal.connect(self.refresh)
        self.refresh()

    def refresh(self, *_: object) -> None:
        t = theme.current()
        self.view.setStyleSheet(f"QTextBrowser {{ background: {t.paper}; }}")
        self.view.document().setDefaultStyleSheet(
            f"body, td, p {{ color: {t.ink}; }} .faint {{ color: {t.faint}; }} .differ {{ color: {t.differ}; }}"
            f" .agree {{ color: {t.agree}; }} .unknown {{ color: {t.unknown}; }} a {{ color: {t.accent}; text-decoration: none; }}"
            f" .code {{ font-family: '{theme.font(code=True).family()}'; }} .here {{ background: {t.chosen}; }}"
            f" h3 {{ font-size: {theme.LARGE}px; margin: 0; }} h4 {{ font-size: {theme.SMALL}px; color: {t.faint}; margin: 10px 0 2px 0;"
            " font-weight: normal; }"
        )
        self.view.setHtml(f"<body>{self._content()}</body>")

    # ---- what it says ----

    def _content(self) -> str:
        s = self.session.selection
        if self.session.project is None:
            return "<p class='faint'>Nothing is open. Open a folder with HDL files, or drop one on the window.</p>"
        if s.signal and self.session.record is not None:
            try:
                reason = why(self.session.record, s.signal, s.moment)
            except RecordError:
                return self._subject()
            return self._signal(reason, s.entry, s.ledger)
        return self._subject()

    def _value(self, value: Logic | float | None) -> str:
        if value is None:
            return "—"
        if isinstance(value, float):
            return f"{value:g}"
        if value.width <= 8:
            return show(value, "bin")
        return f"{value.width}'h{show(value, 'hex')}"

    def _time(self, ticks: int) -> str:
        return show_time(ticks, self.session.tick_exp)

    def _signal(self, reason: Why, entry: Entry | None, ledger: Ledger | None) -> str:
        name = reason.path.rsplit(".", 1)[-1]
        parts = [f"<h3>{html.escape(name)}</h3><p class='faint'>{html.escape(reason.path)}</p>"]
        if entry is not None and ledger is not None:
            parts.append(self._entry(entry, ledger))
        else:
            parts.append(
                f"<p>is <b class='code'>{self._value(reason.value)}</b> at {self._time(self.session.selection.moment)}</p>"
            )
        parts.append(f"<h4>Why {self._value(reason.value)}</h4>")
        if reason.site is None:
            parts.append("<p>It has had this value since the start: nothing has written to it yet.</p>")
            parts.append(self._origin(reason))
            return "".join(parts)
        before = f", before that <b class='code'>{self._value(reason.before)}</b>" if reason.before is not None else ""
        parts.append(f"<p>Written at <a href='moment:{reason.since}'>{self._time(reason.since)}</a>{before}, by</p>")
        parts.append(self._excerpt(reason.site.file, reason.site.line))
        parts.append(self._origin(reason))
        if reason.causes:
            parts.append("<h4>It read</h4><table cellspacing='0' cellpadding='1'>")
            for cause in reason.causes:
                at = reason.since if cause.changed == reason.since else reason.since - 1  # where it has the value that was read
                role = "<td class='faint'>&nbsp;as condition</td>" if cause.role == "condition" else "<td></td>"
                parts.append(
                    f"<tr><td><a href='signal:{html.escape(cause.path)}@{at}'>{html.escape(cause.name)}</a></td>"
                    f"<td>&nbsp;<b class='code'>{self._value(cause.value)}</b></td>"
                    f"<td class='faint'>&nbsp;since {self._time(cause.changed)}</td>{role}</tr>"
                )
            parts.append("</table>")
        return "".join(parts)

    def _origin(self, reason: Why) -> str:
        """Where an unknown began: the way there, and why."""
        record = self.session.record
        found = origin(record, reason.path, self.session.selection.moment) if record is not None else None
        if found is None:
            return ""
        links = [
            f"<a href='signal:{html.escape(path)}@{since}'>{html.escape(path.rsplit('.', 1)[-1])}</a>"
            for path, since in found.steps[-6:]
        ]
        way = " ← ".join(links)
        return f"<h4>Where the unknown began</h4><p class='unknown'>{html.escape(found.reason)}</p><p>{way}</p>"

    def _entry(self, entry: Entry, ledger: Ledger) -> str:
        word = "differs" if entry.kind == "differs" else "can't be compared"
        kind = "differ" if entry.kind == "differs" else "unknown"
        stretch = f"from {self._time(entry.start)} to {self._time(entry.end)}"
        when = f"at {self._time(entry.start)}" if entry.start == entry.end else stretch
        row = f", row {entry.row + 1} of the table" if entry.row >= 0 else ""
        return (
            f"<p class='{kind}'><b>{word}</b> {when}{row}</p><table cellspacing='0' cellpadding='1'>"
            f"<tr><td>{ledger.left}</td><td>&nbsp;<b class='code'>{entry.left}</b></td></tr>"
            f"<tr><td>{ledger.right}</td><td>&nbsp;<b class='code {kind}'>{entry.right}</b></td></tr></table>"
        )

    def _excerpt(self, file: str, line: int) -> str:
        """The statement among its neighbours; a click opens it in Sources."""
        try:
            lines = Path(file).read_text(errors="replace").splitlines()
        except OSError:
            return f"<p><a href='place:{html.escape(file)}@{line}'>{html.escape(Path(file).name)}, line {line}</a></p>"
        low, high = max(line - CONTEXT, 1), min(line + CONTEXT, len(lines))
        shown = lines[low - 1 : high]
        indent = min((len(x) - len(x.lstrip()) for x in shown if x.strip()), default=0)
        rows = []
        room = int((max(self.view.viewport().width(), 200) - 46) / 7.3)
        for number, text in enumerate(shown, low):
            style = "here" if number == line else ""
            told = text[indent:]
            if number == line:  # all of the statement, for its end may be what matters
                deeper = " " * min(len(told) - len(told.lstrip()) + 4, room // 2)
                pieces = textwrap.wrap(told, room, subsequent_indent=deeper, max_lines=8, placeholder=" …") or [told]
            else:
                pieces = [told if len(told) <= room else told[: room - 1] + "…"]
            written = "<br>".join(map(html.escape, pieces))
            rows.append(
                f"<tr class='{style}'><td class='faint code' style='white-space: pre'>{number} </td>"
                f"<td width='100%' class='code {style}' style='white-space: pre'>{written}</td></tr>"
            )
        link = f"<a href='place:{html.escape(file)}@{line}'>{html.escape(Path(file).name)}, line {line}</a>"
        return f"<table width='100%' cellspacing='0' cellpadding='1'>{''.join(rows)}</table><p>{link}</p>"

    def _subject(self) -> str:
        subject = self.session.subject
        project = self.session.project
        assert project is not None
        if subject is None:
            said = "<br>".join(html.escape(p.text) for p in project.problems)
            return f"<h3>{html.escape(project.name)}</h3><p>{said}</p>"
        found = self.session.current
        state, words = verdict(found, subject.name in self.session.progress)
        kind = {"agree": "agree", "differ": "differ", "failed": "differ", "unknown": "unknown"}.get(state, "faint")
        parts = [f"<h3>{html.escape(subject.name)}</h3><p class='{kind}'>{words}</p>"]
        parts += [
            f"<p class='faint'>{html.escape(os.path.relpath(p.file, project.folder))}: {html.escape(p.text)}</p>"
            for p in project.problems[:4]
        ]
        if found is None:
            return "".join(parts)
        for ledger in found.ledgers:
            parts.append(f"<h4>{ledger.left} and {ledger.right}</h4><p>{html.escape(ledger.summary())}</p>")
            if ledger.first is not None:
                first = ledger.first
                parts.append(f"<p>First at <a href='entry:first'>{self._time(first.at)}</a>: {html.escape(first.signal)}</p>")
        trouble = [
            f"{Path(d.place.file).name}, line {d.place.line}: {d.message}" for d in found.diagnostics if d.severity == "error"
        ]
        trouble += [f"{Path(p.file).name}, line {p.line}: {p.text}" for p in found.problems]
        if trouble:
            parts.append("<h4>In the way</h4>" + "".join(f"<p class='differ'>{html.escape(x)}</p>" for x in trouble[:8]))
        if found.parameters:
            said = ", ".join(f"{k} = {v}" for k, v in found.parameters.items())
            parts.append(f"<h4>Parameters</h4><p class='code'>{html.escape(said)}</p>")
        if found.outcome is not None:
            ending = "The plan ended" if found.bench and found.outcome.ended == "finish" else self._ending(found.outcome.ended)
            parts.append(f"<h4>The run</h4><p>{ending} at {self._time(found.outcome.time)}</p>")
        for note in found.notes:
            parts.append(f"<p class='faint'>{html.escape(note)}</p>")
        if found.printed:
            lines = found.printed.rstrip().splitlines()
            shown = "<br>".join(html.escape(x).replace(" ", "&nbsp;") for x in lines[-12:])
            count = f"{len(lines)} line{'s' if len(lines) != 1 else ''}"
            parts.append(f"<h4>Printed, {count}</h4><p class='code'>{shown}</p>")
        return "".join(parts)

    @staticmethod
    def _ending(ended: str) -> str:
        return {
            "quiet": "Nothing more happened", "finish": "The testbench ended it", "stop": "The testbench stopped it", "limit": "The set length ended it",
            "error": "It stopped with an error", "cancelled": "It was ended early",
        }.get(ended, ended)  # fmt: skip

    # ---- links ----

    def _follow(self, url: QUrl) -> None:
        kind, _, rest = url.toString().partition(":")
        if kind == "moment":
            self.session.select(moment=int(rest), entry=self.session.selection.entry)
            self.session.reveal(int(rest), int(rest))
        elif kind == "signal":
            path, _, moment = rest.rpartition("@")
            self.session.select(signal=path, moment=int(moment))
            self.session.reveal(int(moment), int(moment))
        elif kind == "place":
            file, _, line = rest.rpartition("@")
            self.session.select(file=file, line=int(line), entry=self.session.selection.entry)
            self.session.show_desk.emit("Sources")
        elif kind == "entry":
            self.session.step_entry(1)
            self.session.show_desk.emit("Ledger")
