"""A PDF for archives: PDF/A-3b (ISO 19005-3), with the document and the parts that it was made of within."""

from __future__ import annotations

import hashlib
import io
import struct
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime
from functools import lru_cache
from xml.sax.saxutils import escape

MADE = (2026, 1, 1, 0, 0, 0)
"""The date that the colour profile says: the same file whenever it is written."""
MOST = 200
"""Characters of the name of a file that is put in."""


@dataclass(frozen=True)
class Attached:
    """A file that is put into the PDF: what it is called, what it holds, its media type, and what it is to the drawing (``Source``
    of which the pages were made, ``Data`` beside them)."""

    name: str
    data: bytes
    media_type: str = "application/octet-stream"
    relation: str = "Source"
    says: str = ""


def archived(pdf: bytes, attached: Sequence[Attached] = (), part: int = 3) -> bytes:
    """A PDF as PDF/A of a ``part`` of ISO 19005, conformance B: its colours by a profile, what it says of itself also as XMP, an
    identifier that follows from its content. The same input gives the same file.

    Part 1 knows no attached files.
    """
    import pikepdf
    from pikepdf import Array, Dictionary, Name, Stream

    if part == 1 and attached:
        raise ValueError("PDF/A-1 holds no files")
    with pikepdf.open(io.BytesIO(pdf)) as document:
        root = document.Root
        profile = Stream(document, colour_profile(), N=3, Alternate=Name.DeviceRGB)
        intent = Dictionary(
            Type=Name.OutputIntent,
            S=Name.GTS_PDFA1,
            OutputConditionIdentifier="sRGB",
            Info="sRGB IEC61966-2.1",
            DestOutputProfile=document.make_indirect(profile),
        )
        root.OutputIntents = Array([document.make_indirect(intent)])
        info = document.docinfo
        when = _moment(str(info.get("/CreationDate", "")))
        stamp = f"D:{when:%Y%m%d%H%M%S}Z"
        for key in ("/CreationDate", "/ModDate"):
            info[key] = stamp
        said = {str(k): str(info[str(k)]) for k in list(info.keys())}
        kept = {k: v for k, v in said.items() if k in _KNOWN and (v or k not in _TEXTS)}
        for key in said.keys() - kept.keys():
            del info[key]
        packet = _xmp(kept, when, part)
        metadata = Stream(document, packet, Type=Name.Metadata, Subtype=Name.XML)
        root.Metadata = document.make_indirect(metadata)
        files = []
        for file in attached:
            stream = Stream(document, file.data)
            stream.Type = Name.EmbeddedFile
            stream.Subtype = Name("/" + file.media_type)
            stream.Params = Dictionary(
                ModDate=stamp, Size=len(file.data), CheckSum=hashlib.md5(file.data, usedforsecurity=False).digest()
            )
            inner = document.make_indirect(stream)
            name = file.name[:MOST]
            spec = Dictionary(
                Type=Name.Filespec,
                F=name,
                UF=name,
                Desc=file.says,
                AFRelationship=Name("/" + file.relation),
                EF=Dictionary(F=inner, UF=inner),
            )
            files.append((name, document.make_indirect(spec)))
        if files:
            names = [x for name, spec in sorted(files, key=lambda f: f[0]) for x in (name, spec)]
            root.Names = root.get("/Names", Dictionary())
            root.Names.EmbeddedFiles = Dictionary(Names=Array(names))
            root.AF = Array([spec for _, spec in files])
        out = io.BytesIO()
        document.save(
            out,
            deterministic_id=True,
            force_version="1.4" if part == 1 else "1.7",
            object_stream_mode=pikepdf.ObjectStreamMode.disable,
        )
    return out.getvalue()


def with_sources(pdf: bytes, document: bytes, parts: Mapping[str, bytes]) -> bytes:
    """A PDF for archives with the drawing document, as JSON, and the files of its parts by their names."""
    own = Attached("drawing.json", document, "application/json", says="The drawing as a document")
    files = [Attached(name, data, says="The part that is drawn") for name, data in parts.items()]
    return archived(pdf, [own, *files])


_TEXTS = {"/Title": "title", "/Author": "creator", "/Subject": "description"}
_KNOWN = {*_TEXTS, "/Keywords", "/Creator", "/Producer", "/CreationDate", "/ModDate"}


def _moment(stamp: str) -> datetime:
    """The moment that a date of a PDF says, in UTC; the beginning of 2000 where it says none."""
    digits = "".join(c for c in stamp[:16] if c.isdigit())
    try:
        return datetime.strptime(digits[:14].ljust(14, "0"), "%Y%m%d%H%M%S").replace(tzinfo=UTC)
    except ValueError:
        return datetime(2000, 1, 1, tzinfo=UTC)


def _xmp(info: dict[str, str], when: datetime, part: int) -> bytes:
    """What a file says of itself, as an XMP packet; the same as its information dictionary says."""
    moment = f"{when:%Y-%m-%dT%H:%M:%S}Z"
    lines = [f"<pdfaid:part>{part}</pdfaid:part>", "<pdfaid:conformance>B</pdfaid:conformance>"]
    lines.append("<dc:format>application/pdf</dc:format>")
    for key, name in _TEXTS.items():
        if key in info:
            text = escape(info[key])
            if name == "creator":
                lines.append(f"<dc:creator><rdf:Seq><rdf:li>{text}</rdf:li></rdf:Seq></dc:creator>")
            else:
                lines.append(f'<dc:{name}><rdf:Alt><rdf:li xml:lang="x-default">{text}</rdf:li></rdf:Alt></dc:{name}>')
    for key, name in (("/Keywords", "pdf:Keywords"), ("/Producer", "pdf:Producer"), ("/Creator", "xmp:CreatorTool")):
        if key in info:
            lines.append(f"<{name}>{escape(info[key])}</{name}>")
    lines += [f"<xmp:{name}>{moment}</xmp:{name}>" for name in ("CreateDate", "ModifyDate", "MetadataDate")]
    spaces = " ".join(
        f'xmlns:{name}="{uri}"'
        for name, uri in (
            ("pdfaid", "http://www.aiim.org/pdfa/ns/id/"),
            ("dc", "http://purl.org/dc/elements/1.1/"),
            ("pdf", "http://ns.adobe.com/pdf/1.3/"),
            ("xmp", "http://ns.adobe.com/xap/1.0/"),
        )
    )
    body = "\n".join(lines)
    return (
        '<?xpacket begin="\ufeff" id="W5M0MpCehiHzreSzNTczkc9d"?>\n<x:xmpmeta xmlns:x="adobe:ns:meta/">\n'
        '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">\n'
        f'<rdf:Description rdf:about="" {spaces}>\n{body}\n</rdf:Description>\n</rdf:RDF>\n</x:xmpmeta>\n'
        '<?xpacket end="w"?>'
    ).encode()


@lru_cache(maxsize=1)
def colour_profile() -> bytes:
    """An ICC profile (version 2, a display of three primaries) of the colours of IEC 61966-2-1, for PCS XYZ of D50."""

    def fixed(x: float) -> bytes:
        return struct.pack(">i", round(x * 65536))

    def xyz(*values: float) -> bytes:
        return b"XYZ \0\0\0\0" + b"".join(fixed(v) for v in values)

    def text(words: str) -> bytes:
        return b"text\0\0\0\0" + words.encode() + b"\0"

    name = b"sRGB IEC61966-2.1\0"
    described = b"desc\0\0\0\0" + struct.pack(">I", len(name)) + name + bytes(8) + bytes(3) + bytes(67)
    # the curve of IEC 61966-2-1, at 1024 places
    places = [k / 1023 for k in range(1024)]
    values = [x / 12.92 if x <= 0.04045 else ((x + 0.055) / 1.055) ** 2.4 for x in places]
    curve = b"curv\0\0\0\0" + struct.pack(">I", 1024) + b"".join(struct.pack(">H", round(65535 * v)) for v in values)
    tags = {
        b"desc": described,
        b"cprt": text("No rights are claimed."),
        b"wtpt": xyz(0.95045, 1.0, 1.08905),
        b"rXYZ": xyz(0.43607, 0.22249, 0.01392),
        b"gXYZ": xyz(0.38515, 0.71687, 0.09708),
        b"bXYZ": xyz(0.14307, 0.06061, 0.71410),
        b"rTRC": curve,
        b"gTRC": curve,
        b"bTRC": curve,
    }
    at, table, data = 128 + 4 + 12 * len(tags), b"", b""
    known: dict[bytes, int] = {}
    for tag, body in tags.items():
        if body not in known:
            known[body] = at + len(data)
            data += body + bytes(-len(body) % 4)
        table += tag + struct.pack(">II", known[body], len(body))
    size = at + len(data)
    header = struct.pack(">I4sI", size, bytes(4), 0x02100000) + b"mntrRGB XYZ "
    header += struct.pack(">6H", *MADE) + b"acsp" + bytes(4 + 4 + 4 + 4 + 8 + 4)
    header += fixed(0.9642) + fixed(1.0) + fixed(0.8249) + bytes(4)
    header += bytes(128 - len(header))
    return header + struct.pack(">I", len(tags)) + table + data
