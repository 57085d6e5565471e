"""HTML from outside as plain text, by libxml2's parser: one pass, no tree, no entity of the outside is looked up, nothing runs.

Used by letters and by the adapters of networks. Work grows with the length of what is given, whatever it is: libxml2
bounds how deep tags nest and how long a name is.
"""

from html import unescape

from lxml import etree

#: Characters that are read; what comes after them is left out.
LONGEST = 300_000

#: Where a new line begins: the elements that are blocks by the HTML standard's rendering section, as far as people use them
#: in mail and posts (WHATWG HTML, 15.3.3 "Flow content"; from memory).
_BLOCKS = frozenset(
    [
        "address",
        "article",
        "blockquote",
        "br",
        "dd",
        "div",
        "dl",
        "dt",
        "footer",
        "h1",
        "h2",
        "h3",
        "h4",
        "h5",
        "h6",
        "header",
        "hr",
        "li",
        "ol",
        "p",
        "pre",
        "section",
        "table",
        "tr",
        "ul",
    ]
)
#: What is written for a program and not for a reader.
_SILENT = frozenset({"script", "style", "title", "head", "template"})
#: Quotations within quotations that are still told apart.
_DEEPEST = 8


class _Lines:
    """What the parser tells, as lines."""

    def __init__(self) -> None:
        self.lines: list[str] = []
        self._line: list[str] = []
        self._quoted = 0
        self._silent = 0

    def start(self, tag: str, attributes: object) -> None:
        self._cross(tag, opens=True)

    def end(self, tag: str) -> None:
        # The parser ends `br` at once; the line it ended is not ended twice.
        if tag != "br":
            self._cross(tag, opens=False)

    def data(self, text: str) -> None:
        if not self._silent:
            self._line.append(text)

    def comment(self, text: str) -> None:
        """Nobody reads it."""

    def pi(self, target: str, data: str | None = None) -> None:
        """Nobody reads it."""

    def close(self) -> list[str]:
        self._end()
        return self.lines

    def _cross(self, tag: str, *, opens: bool) -> None:
        if tag in _SILENT:
            self._silent = max(0, self._silent + (1 if opens else -1))
        if tag in _BLOCKS:
            self._end(always=tag == "br")
        if tag == "blockquote":
            self._quoted = max(0, self._quoted + (1 if opens else -1))

    def _end(self, *, always: bool = False) -> None:
        words = " ".join("".join(self._line).split())
        self._line = []
        if words or always:
            self.lines.append("> " * min(self._quoted, _DEEPEST) + words)


def read_html(html: str) -> str:
    """HTML as text: no tag, script, style or comment is left, quotations are marked with '>' and lines stay lines.

    Its first 300,000 characters are read. Text in which no tag stands keeps its own lines: some call plain text HTML.
    What is no HTML is read as far as it goes; that never raises.
    """
    html = html[:LONGEST]
    if "<" not in html:
        return unescape(html).strip()
    target = _Lines()
    # Nothing is fetched and no entity but those of HTML is known; a null would end the text.
    parser = etree.HTMLParser(target=target, no_network=True, recover=True, encoding="utf-8")
    try:
        parser.feed(html.replace("\x00", "").encode("utf-8", "replace"))
        parser.close()
    except etree.LxmlError:
        # So little that there is nothing to parse; or broken where even the lenient reading ends.
        target.close()
    return "\n".join(target.lines).strip("\n")
