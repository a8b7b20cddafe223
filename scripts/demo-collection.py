#!/usr/bin/env python3
"""Builds the demo files that are not plain text, from the texts in scripts/demo/.

Usage: scripts/demo-collection.py

Needs nothing but Python. The same texts give the same bytes: no time of day gets into the archives. Written to demo/:

  handbook.epub               EPUB 3, a chapter a heading of handbook.txt
  season-summary.pdf          a page a part of summary.txt, words broken at line ends as printers break them
  nest-boxes.xlsx             boxes.tsv, a sheet a year or language, dates and a formula
  equipment-tickets.jsonl     tickets.txt as nested objects
  night-posts.json            night-posts.txt as one array; some posts are arrays of strings
  warden-mail.mbox            mail.txt as a mailbox with quoted-printable and base64 parts
  visitor-cards-2030.csv      cards-2030.txt with semicolons, in ISO 8859-1
  reports-2030.zip            reports-2030.txt, a text with a YAML side file each
  notice-board/notices-de.html   the German notice board, in ISO 8859-1
"""
import base64
import io
import json
import pathlib
import quopri
import zipfile
from email.header import Header
from email.utils import format_datetime
from datetime import date, datetime
from xml.sax.saxutils import escape

SOURCES = pathlib.Path(__file__).resolve().parent / "demo"
# As every report of that year had it, whoever wrote it.
FOOTER = "Saltmere Reserve, the wardens' office, please pass this on"
OUT = pathlib.Path(__file__).resolve().parent.parent / "demo"


def source(name):
    return (SOURCES / name).read_text(encoding="utf-8")


def archive(members):
    """A zip archive of (name, bytes, compressed) in which every time is the same."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as pack:
        for name, content, compressed in members:
            info = zipfile.ZipInfo(name, (2031, 1, 1, 0, 0, 0))
            info.compress_type = zipfile.ZIP_DEFLATED if compressed else zipfile.ZIP_STORED
            info.external_attr = 0o644 << 16
            pack.writestr(info, content)
    return out.getvalue()


def parts(name, sign="\n%\n"):
    return [part.strip("\n") for part in source(name).split(sign)]


def handbook():
    chapters = [part.split("\n", 1) for part in source("handbook.txt").split("# ")[1:]]
    page = ('<?xml version="1.0" encoding="utf-8"?>\n<!DOCTYPE html>\n<html xmlns="http://www.w3.org/1999/xhtml" '
            'xmlns:epub="http://www.idpf.org/2007/ops" lang="en"><head><title>{0}</title></head>\n<body{2}>{1}</body></html>\n')
    files, items, spine, entries, points = [], [], [], [], []
    for number, (title, text) in enumerate(chapters, 1):
        name = f"text/chapter {number:02}.xhtml"
        href = name.replace(" ", "%20")
        body = f"<h1>{escape(title)}</h1>\n" + "\n".join(f"<p>{escape(line)}</p>" for line in text.strip().split("\n"))
        files.append((f"OEBPS/{name}", page.format(escape(title), body, ""), True))
        items.append(f'<item id="c{number}" href="{href}" media-type="application/xhtml+xml"/>')
        spine.append(f'<itemref idref="c{number}"/>')
        entries.append(f'<li><a href="{href}">{escape(title)}</a></li>')
        points.append(f'<navPoint id="p{number}" playOrder="{number}"><navLabel><text>{escape(title)}</text></navLabel>'
                      f'<content src="{href}"/></navPoint>')
    files.append(("OEBPS/cover.xhtml", page.format("Cover", "<h1>The Wardens' Handbook</h1>", ' epub:type="cover"'), True))
    nav = f'<nav epub:type="toc"><h1>Contents</h1><ol>{"".join(entries)}</ol></nav>'
    files.append(("OEBPS/nav.xhtml", page.format("Contents", nav, ""), True))
    ncx = ('<?xml version="1.0" encoding="utf-8"?><ncx xmlns="http://www.daisy.org/z3986/2005/ncx/" version="2005-1">'
           f'<navMap>{"".join(points)}</navMap></ncx>')
    files.append(("OEBPS/toc.ncx", ncx, True))
    opf = ('<?xml version="1.0" encoding="utf-8"?>\n<package xmlns="http://www.idpf.org/2007/opf" version="3.0" '
           'unique-identifier="id"><metadata xmlns:dc="http://purl.org/dc/elements/1.1/"><dc:identifier id="id">saltmere-handbook'
           '</dc:identifier><dc:title>The Wardens’ Handbook</dc:title><dc:creator>The wardens of Saltmere</dc:creator>'
           '<dc:language>en</dc:language><dc:date>2031-03-01</dc:date></metadata>\n<manifest>'
           '<item id="cover" href="cover.xhtml" media-type="application/xhtml+xml"/>'
           '<item id="nav" href="nav.xhtml" media-type="application/xhtml+xml" properties="nav"/>'
           '<item id="ncx" href="toc.ncx" media-type="application/x-dtbncx+xml"/>'
           f'{"".join(items)}</manifest>\n<spine toc="ncx"><itemref idref="cover"/><itemref idref="nav"/>{"".join(spine)}</spine></package>\n')
    container = ('<?xml version="1.0"?><container version="1.0" xmlns="urn:oasis:names:tc:opendocument:xmlns:container">'
                 '<rootfiles><rootfile full-path="OEBPS/content.opf" media-type="application/oebps-package+xml"/></rootfiles></container>')
    return archive([("mimetype", "application/epub+zip", False), ("META-INF/container.xml", container, True),
                    ("OEBPS/content.opf", opf, True), *files])


def wrapped(text, width):
    """Lines of at most so many letters. A hyphen before a line break in the source breaks the word there."""
    lines = []
    for piece in text.split("\n"):
        line = ""
        for word in piece.split(" "):
            if line and len(line) + 1 + len(word) > width:
                lines.append(line)
                line = word
            else:
                line = f"{line} {word}" if line else word
        lines.append(line)
    return lines


def summary():
    """A PDF of one font, as ISO 32000 describes the least of it."""
    objects = [b"<< /Type /Catalog /Pages 2 0 R >>", None, b"<< /Type /Font /Subtype /Type1 /BaseFont /Helvetica /Encoding /WinAnsiEncoding >>",
               b"<< /Title (Season summary 2031) /Author (The wardens of Saltmere) >>"]
    pages = []
    for part in parts("summary.txt"):
        head, text = part.split("\n", 1)
        drawn = [b"BT /F1 16 Tf 72 760 Td (" + head.encode("cp1252") + b") Tj ET"]
        for row, line in enumerate(wrapped(text, 84)):
            raw = line.encode("cp1252").replace(b"\\", b"\\\\").replace(b"(", b"\\(").replace(b")", b"\\)")
            drawn.append(b"BT /F1 11 Tf 72 %d Td (%s) Tj ET" % (730 - 16 * row, raw))
        stream = b"\n".join(drawn)
        objects.append(b"<< /Length %d >>\nstream\n%s\nendstream" % (len(stream), stream))
        objects.append(b"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 595 842] /Contents %d 0 R /Resources << /Font << /F1 3 0 R >> >> >>"
                       % len(objects))
        pages.append(b"%d 0 R" % len(objects))
    objects[1] = b"<< /Type /Pages /Kids [%s] /Count %d >>" % (b" ".join(pages), len(pages))
    out, places = b"%PDF-1.4\n%\xe2\xe3\xcf\xd3\n", []
    for number, content in enumerate(objects, 1):
        places.append(len(out))
        out += b"%d 0 obj\n%s\nendobj\n" % (number, content)
    table = b"".join(b"%010d 00000 n \n" % place for place in places)
    return out + (b"xref\n0 %d\n0000000000 65535 f \n%strailer\n<< /Size %d /Root 1 0 R /Info 4 0 R >>\nstartxref\n%d\n%%%%EOF\n"
                  % (len(objects) + 1, table, len(objects) + 1, len(out)))


def boxes():
    """A workbook of two sheets, as ECMA-376 describes the least of it."""
    sheets = {}
    for line in source("boxes.tsv").splitlines():
        sheet, *cells = line.split("\t")
        sheets.setdefault(sheet, []).append(cells)
    head = ["box", "place", "visited", "found", "eggs", "remark"]

    def text(cell, value):
        return f'<c r="{cell}" t="inlineStr"><is><t>{escape(value)}</t></is></c>'

    members = []
    for number, (sheet, rows) in enumerate(sheets.items(), 1):
        xml = ['<row r="1">' + "".join(text("ABCDEF"[i] + "1", name) for i, name in enumerate(head)) + "</row>"]
        for row, (box, place, visited, found, eggs, remark) in enumerate(rows, 2):
            serial = (date.fromisoformat(visited) - date(1899, 12, 30)).days
            xml.append(f'<row r="{row}"><c r="A{row}"><v>{box}</v></c>{text(f"B{row}", place)}<c r="C{row}" s="1"><v>{serial}</v></c>'
                       f'{text(f"D{row}", found)}<c r="E{row}"><v>{eggs}</v></c>{text(f"F{row}", remark)}</row>')
        members.append((f"xl/worksheets/sheet{number}.xml", '<?xml version="1.0" encoding="UTF-8"?><worksheet xmlns="http://schemas.openxml'
                        f'formats.org/spreadsheetml/2006/main"><sheetData>{"".join(xml)}</sheetData></worksheet>', True))
    numbers = range(1, len(sheets) + 1)
    main = "http://schemas.openxmlformats.org/spreadsheetml/2006/main"
    office = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    package = "http://schemas.openxmlformats.org/package/2006"
    kind = "application/vnd.openxmlformats-officedocument.spreadsheetml"
    listed = "".join(f'<sheet name="{escape(name)}" sheetId="{n}" r:id="rId{n}"/>' for n, name in zip(numbers, sheets))
    types = "".join(f'<Override PartName="/xl/worksheets/sheet{n}.xml" ContentType="{kind}.worksheet+xml"/>' for n in numbers)
    links = "".join(f'<Relationship Id="rId{n}" Type="{office}/worksheet" Target="worksheets/sheet{n}.xml"/>' for n in numbers)
    last = len(sheets) + 1
    return archive([
        ("[Content_Types].xml", f'<?xml version="1.0" encoding="UTF-8"?><Types xmlns="{package}/content-types"><Default Extension="rels" '
         f'ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="xml" ContentType="application/xml"/>'
         f'<Override PartName="/xl/workbook.xml" ContentType="{kind}.sheet.main+xml"/><Override PartName="/xl/styles.xml" '
         f'ContentType="{kind}.styles+xml"/>{types}</Types>', True),
        ("_rels/.rels", f'<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="{package}/relationships"><Relationship Id="rId1" '
         f'Type="{office}/officeDocument" Target="xl/workbook.xml"/></Relationships>', True),
        ("xl/workbook.xml", f'<?xml version="1.0" encoding="UTF-8"?><workbook xmlns="{main}" xmlns:r="{office}"><sheets>{listed}</sheets>'
         '</workbook>', True),
        ("xl/_rels/workbook.xml.rels", f'<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="{package}/relationships">{links}'
         f'<Relationship Id="rId{last}" Type="{office}/styles" Target="styles.xml"/></Relationships>', True),
        ("xl/styles.xml", f'<?xml version="1.0" encoding="UTF-8"?><styleSheet xmlns="{main}"><fonts count="1"><font/></fonts><fills count="1">'
         '<fill/></fills><borders count="1"><border/></borders><cellStyleXfs count="1"><xf/></cellStyleXfs><cellXfs count="2"><xf/>'
         '<xf numFmtId="14" applyNumberFormat="1"/></cellXfs></styleSheet>', True),
        *members])


def tickets():
    out = []
    for line in source("tickets.txt").splitlines():
        id, thing, reporter, day, state, *messages = line.split("|")
        entries = [{"from": reporter if index == 0 else "wardens", "text": text} for index, text in enumerate(messages)]
        out.append(json.dumps({"ticket": {"id": id, "thing": thing, "reporter": reporter, "opened": day, "open": state == "open"},
                               "messages": entries}, ensure_ascii=False))
    return "\n".join(out).encode() + b"\n"


def posts():
    out = []
    for number, line in enumerate(source("night-posts.txt").splitlines(), 1):
        pieces = [piece.encode("ascii", "backslashreplace").decode("unicode_escape") if "\\u" in piece else piece
                  for piece in line.split("|")]
        out.append({"id": f"night-{number:02}", "posted": f"2031-06-{18 + number % 9}T0{number % 5}:{number * 7 % 60:02}:00Z",
                    "post": pieces if len(pieces) > 1 else pieces[0]})
    return json.dumps(out, ensure_ascii=False, indent=1).encode() + b"\n"


def mail():
    out = []
    for number, part in enumerate(parts("mail.txt"), 1):
        head, body = part.split("\n", 1)
        name, address, to, sent, subject = head.split("|")
        when = datetime.fromisoformat(sent)
        body = body.strip("\n") + f"\n\n-- \n{name}\nSaltmere Reserve, five wards and one kettle\n"
        if body.isascii():
            encoding, content = "7bit", body
        elif number % 2:
            encoding, content = "base64", base64.encodebytes(body.encode()).decode()
        else:
            encoding, content = "quoted-printable", quopri.encodestring(body.encode()).decode()
        content = "\n".join(f">{line}" if line.startswith("From ") else line for line in content.split("\n"))
        out.append(f"From {address} {when.strftime('%a %b %d %H:%M:%S %Y')}\nFrom: {Header(name, 'utf-8' if not name.isascii() else 'ascii')} "
                   f"<{address}>\nTo: {Header(to, 'utf-8' if not to.isascii() else 'ascii')} <wardens@wardens.example.org>\n"
                   f"Subject: {Header(subject, 'utf-8' if not subject.isascii() else 'ascii').encode()}\nDate: {format_datetime(when)}\n"
                   f"Message-ID: <mail-{number:02}@wardens.example.org>\nMIME-Version: 1.0\nContent-Type: text/plain; charset=utf-8\n"
                   f"Content-Transfer-Encoding: {encoding}\n\n{content}\n")
    return "\n".join(out).encode()


def cards():
    rows = ["card;site;rating;language;comment"]
    for line in source("cards-2030.txt").splitlines():
        *cells, comment = line.split(";", 4)
        rows.append(";".join(cells) + ";" + (f'"{comment}"' if ";" in comment else comment))
    # ISO 8859-1 has no œ: what people type is the two letters.
    return ("\r\n".join(rows) + "\r\n").replace("œ", "oe").encode("latin-1")


def reports():
    members = []
    for part in parts("reports-2030.txt"):
        head, text = part.split("\n", 1)
        name, ward, month, count = head.split("\t")
        members.append((f"reports-2030/{name}.txt", f"{text}\n\n{FOOTER}\n", True))
        members.append((f"reports-2030/{name}.yaml", f"ward: {ward}\nmonth: {month}\ncount: {count}\n", True))
    return archive(sorted(members))


def side_files():
    """The fields of the reports that lie in demo/ward-reports as text files."""
    for path in sorted((OUT / "ward-reports").glob("*.txt")):
        ward, year, month = path.stem.rsplit("-", 2)
        name = ward.replace("-", " ").title()
        path.with_suffix(".yaml").write_text(f"ward: {name}\nmonth: {year}-{month}\npages: 1\n", encoding="utf-8")


def main():
    (OUT / "notice-board").mkdir(exist_ok=True)
    made = {"handbook.epub": handbook(), "season-summary.pdf": summary(), "nest-boxes.xlsx": boxes(), "equipment-tickets.jsonl": tickets(),
            "night-posts.json": posts(), "warden-mail.mbox": mail(), "visitor-cards-2030.csv": cards(), "reports-2030.zip": reports()}
    # ISO 8859-1 has no dash but the hyphen.
    made["notice-board/notices-de.html"] = source("noticeboard-de.html").replace(" – ", " - ").encode("latin-1")
    for name, content in made.items():
        (OUT / name).write_bytes(content)
    side_files()


if __name__ == "__main__":
    main()
