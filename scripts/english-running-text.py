#!/usr/bin/env python3
"""Gathers running English text under permissive licences, and finds what it tells of words: their classes, and how they are used.

Usage: scripts/english-running-text.py FOLDER YARRUP [--classes]

FOLDER takes the packages (1 GB) and the text, which is gathered once; YARRUP is the built program. The text is the documentation of Debian's packages
below, each under the licence it stands beside: paragraphs of prose, each once. Packages that Debian no longer has are left out, and named. Written is
word-uses-en.txt, and with --classes word-classes-en.txt before it, both in crates/yarrup-core/src/tag; the English tagger learns with them. They hold
words and numbers, no text.
"""
import gzip
import hashlib
import html.parser
import pathlib
import re
import subprocess
import sys

PACKAGES = {
    "Apache 2.0": """
        ant-doc aodh-doc apache2-doc barbican-doc ceilometer-doc cinder-doc clang-14-doc designate-doc erlang-doc fop-doc
        glance-doc groovy-doc heat-doc ironic-doc keystone-doc libcommons-collections4-java-doc libcommons-io-java-doc
        libcommons-lang3-java-doc libcommons-math3-java-doc libxalan2-java-doc libxerces2-java-doc libzookeeper-java-doc
        llvm-14-doc manila-doc murano-doc neutron-doc nova-doc octavia-doc opencv-doc placement-doc python-aiohttp-doc
        python-coverage-doc python-cryptography-doc python-oslo.config-doc python-pymongo-doc python-requests-doc
        python-tornado-doc python-xarray-doc sahara-doc swift-doc tomcat10-docs trove-doc watcher-doc""",
    "BSD": """
        cmake-doc dpdk-doc flex-doc ghc-doc golang-1.19-doc libghc-aeson-doc libghc-servant-doc libghc-vector-doc libopus-doc
        libtheora-doc libvpx-doc openmpi-doc python-astropy-doc python-babel-doc python-click-doc python-dask-doc
        python-django-doc python-flask-doc python-h5py-doc python-ipython-doc python-jinja2-doc python-kombu-doc python-nipy-doc
        python-pandas-doc python-pecan-doc python-scipy-doc python-skimage-doc python-statsmodels-doc
        python-sympy-doc python-tables-doc python-werkzeug-doc python-wtforms-doc scala-doc slony1-2-doc sphinx-doc varnish-doc""",
    "MIT and X11": """
        krb5-doc libbox2d-doc libcurl4-doc libghc-conduit-doc libice-doc libsm-doc libwayland-doc libx11-doc libxaw-doc
        libxext-doc libxml2-doc libxt-doc nodejs-doc pypy3-doc python-attr-doc python-bottle-doc python-mako-doc
        python-nibabel-doc python-pytest-doc python-setuptools-doc python-sqlalchemy-doc rust-doc scons-doc twisted-doc xorg-docs
        xorg-docs-core""",
    "PSF": """
        python3.11-doc""",
    "PostgreSQL": """
        postgresql-doc-15""",
    "public domain": """
        dict-jargon docutils-doc sqlite3-doc""",
    "Boost": """
        libboost1.81-doc""",
    "of its own, permissive": """
        antlr-doc libsdl2-doc libtiff-doc mpich-doc python-biopython-doc tcl8.6-doc tk8.6-doc zsh-doc""",
}
SKIPPED = re.compile(
    r"/src/|/_modules/|/_static/|/class-use/|genindex|search|index-all|py-modindex|package-tree|overview-tree|changelog"
    r"|copyright|/examples?/|-members\.html|/jquery|/doc-index"
)
KEPT = re.compile(r"\.(html?|txt|rst|pod|dict|info|[1-9](pm|posix)?)(\.gz|\.dz)?$|/doc/[^/]+/[^./]+(\.gz)?$")
NO_TEXT = {"script", "style", "pre", "nav", "head", "table", "footer", "button", "select", "svg", "math"}
BLOCKS = set("p div li ul ol dl dt dd h1 h2 h3 h4 h5 h6 section article blockquote br hr tr td th title main header body".split())
COMMON = set(
    """the of and to a in is that it for on with as are be this by an or not from which you can if at have has will was were his her
    their they we he she its but all when there so no""".split()
)
FONTS = re.compile(r"\\f(\[[A-Z]*\]|\(..|.)|\\[&/,|^]|\\s[-+]?\d")
LETTER, WORD = re.compile(r"[^\W\d_]"), re.compile(r"[^\W\d_]+(?:'[^\W\d_]+)*")


class Prose(html.parser.HTMLParser):
    """The text of a page, blocks parted by empty lines."""

    def __init__(self):
        super().__init__(convert_charrefs=True)
        self.out, self.skipping = [], 0

    def handle_starttag(self, tag, attributes):
        if tag in NO_TEXT:
            self.skipping += 1
        elif tag in BLOCKS:
            self.out.append("\n\n")

    def handle_endtag(self, tag):
        if tag in NO_TEXT:
            self.skipping = max(0, self.skipping - 1)
        elif tag in BLOCKS:
            self.out.append("\n\n")

    def handle_data(self, data):
        if not self.skipping:
            self.out.append(data.replace("\n", " "))


def manual_page(text):
    out = []
    for line in text.split("\n"):
        if line[:1] in (".", "'"):
            name, _, rest = line[1:].partition(" ")
            out.append(rest.replace('"', "") if re.fullmatch("B|I|BR|RB|IR|RI|BI|IB|SM|Nm|Ar|Fl|Pa|Em|Xr", name) else "")
        else:
            out.append(line)
    return FONTS.sub("", "\n".join(out)).replace("\\-", "-").replace("\\(aq", "'").replace("\\e", "\\")


def text_of(path):
    raw = path.read_bytes()[:30_000_000]
    if path.suffix in (".gz", ".dz"):
        try:
            raw = gzip.decompress(raw)
        except (OSError, EOFError):
            return ""
    if b"\0" in raw[:4096]:
        return ""
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError:
        text = raw.decode("latin-1")
    base = re.sub(r"\.(gz|dz)$", "", path.name)
    if re.search(r"\.html?$", base) or text[:300].lstrip().lower().startswith(("<!doctype html", "<html", "<?xml")):
        page = Prose()
        try:
            page.feed(text)
            page.close()
        except (AssertionError, ValueError):
            return ""
        return "".join(page.out)
    if re.search(r"\.[1-9](pm|posix)?$", base):
        return manual_page(text)
    return text.replace("\r\n", "\n").replace("\f", "\n")


def paragraphs(text):
    """Paragraphs that read as English prose."""
    for paragraph in re.split(r"\n[ \t]*\n", text):
        paragraph = " ".join(paragraph.split())
        letters, words = len(LETTER.findall(paragraph)), WORD.findall(paragraph)
        if not 60 <= len(paragraph) <= 20_000 or letters + paragraph.count(" ") < 0.85 * len(paragraph):
            continue
        if len(words) < 9 or letters > 9 * len(words) or sum(word.lower() in COMMON for word in words) < 0.18 * len(words):
            continue
        yield paragraph


def listed_words():
    """The words of Debian's lists: names of functions and of products have classes too, which serve nobody else's text."""
    words = set()
    for path in pathlib.Path("/usr/share/dict/scowl").glob("*"):
        listed = re.fullmatch(r"(english|american|british)-(words|upper|proper-names|contractions|abbreviations)\.(\d+)", path.name)
        if listed and int(listed[3]) <= 70:
            words.update(path.read_text(encoding="latin-1").lower().split())
    return words


def unpacked(folder, package):
    """The folder of a package's files; none if Debian has it no more."""
    place = folder / package
    if not place.exists():
        if not list(folder.glob(f"{package}_*.deb")):
            subprocess.run(["apt-get", "download", "-q", package], cwd=folder, capture_output=True)
        files = list(folder.glob(f"{package}_*.deb"))
        if not files:
            return None
        subprocess.run(["dpkg-deb", "-x", files[0], place], check=True)
    return place


def gathered(folder):
    """Writes the text, a paragraph on each line, and a notice of what it is."""
    seen, words, had = set(), 0, {}
    with open(folder / "text.txt", "w", encoding="utf-8") as out:
        for licence, packages in PACKAGES.items():
            for package in sorted(packages.split()):
                place = unpacked(folder, package)
                if place is None:
                    print(f"{package}: not to be had, left out", file=sys.stderr)
                    continue
                had.setdefault(licence, []).append(package)
                for path in sorted(place.rglob("*")):
                    name = "/" + str(path.relative_to(folder))
                    if path.is_symlink() or not path.is_file() or SKIPPED.search(name) or not KEPT.search(name):
                        continue
                    for paragraph in paragraphs(text_of(path)):
                        key = hashlib.blake2b(re.sub(r"\d+", "0", paragraph.lower()).encode(), digest_size=8).digest()
                        if key not in seen:
                            seen.add(key)
                            words += len(paragraph.split())
                            out.write(paragraph + "\n")
    print(f"{words} words of text")
    source = f"# Learned from {words} words of the documentation of Debian's packages, by their licences; only words that `scowl` lists:"
    notice = [source, *(f"# {licence}: {' '.join(packages)}" for licence, packages in had.items())]
    (folder / "notice.txt").write_text("\n".join(notice) + "\n", encoding="utf-8")


def keep_listed(path, folder):
    """Leaves only listed words in a file of words, and says where they are from."""
    known = listed_words()
    if not known:
        sys.exit("Debian's package `scowl`, whose words are kept, is not installed")
    is_kept = lambda word: (
        not re.search("[a-z]", word) or word == "n't" or word[0] == "'" or all(part in known for part in word.split("-"))
    )
    head, *lines = path.read_text(encoding="utf-8").rstrip("\n").split("\n")
    kept = [head, *(folder / "notice.txt").read_text(encoding="utf-8").rstrip("\n").split("\n")]
    for line in lines:
        *cells, words = line.split("\t")
        if words := " ".join(word for word in words.split(" ") if is_kept(word)):
            kept.append("\t".join([*cells, words]))
    path.write_text("\n".join(kept) + "\n", encoding="utf-8")


RECIPE = """recipe = "uses"
language = "en"

[[step]]
do = "split"
into = "clitics"

[[step]]
do = "tag"
model = "first.model"
"""


def main():
    folder, yarrup = pathlib.Path(sys.argv[1]).resolve(), pathlib.Path(sys.argv[2]).resolve()
    folder.mkdir(parents=True, exist_ok=True)
    if not (folder / "notice.txt").exists():
        gathered(folder)
    root = pathlib.Path(__file__).resolve().parent.parent
    classes, uses = (root / "crates/yarrup-core/src/tag" / name for name in ("word-classes-en.txt", "word-uses-en.txt"))
    do = lambda *command: subprocess.run([yarrup, *command], cwd=folder, check=True)
    if "--classes" in sys.argv:
        do("learn", "--text", "text.txt", "--out", classes, "--replace")
        keep_listed(classes, folder)
    # A first model, which has seen no text, says how the text uses words.
    do("learn", *sorted((root / "treebank/en").glob("*.conllu")), "--word-classes", classes, "--out", "first.model", "--replace")
    (folder / "uses.toml").write_text(RECIPE, encoding="utf-8")
    do("run", "uses.toml", "text.txt", "--each", "line", "--without-documents", "--out", "uses-run", "--replace")
    do("learn", "--uses-of", "uses-run", "--least", "8", "--out", uses, "--replace")
    keep_listed(uses, folder)


main()
