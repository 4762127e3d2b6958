"""The command ``barequill``."""

from __future__ import annotations

import json
import os
import subprocess
import sys
from pathlib import Path
from typing import Any

import click

from . import __version__
from .core.errors import OurFault, UserError
from .issuing import DOCUMENTS, FORMATS, check_document, draw_document, for_archives, issued, make_ready, reading, write
from .work.collecting import begin_seldom

SHORT = ("draw", "check", "lines", "part", "features", "fit", "frame")
"""Commands that leave nothing behind that is to be taken down."""


class _Commands(click.Group):
    """Turns what a user can put right into one clear line and exit code 2, and a fault of ours into one and 1."""

    def invoke(self, ctx: click.Context) -> Any:
        try:
            return super().invoke(ctx)
        except (click.ClickException, click.exceptions.Exit, click.Abort):
            raise
        except UserError as error:
            click.echo(f"barequill: {' '.join(str(error).split())}", err=True)
            sys.exit(1 if isinstance(error, OurFault) else 2)
        except OSError as error:
            where = f" ({error.filename})" if error.filename else ""
            click.echo(f"barequill: {error.strerror or error}{where}: check the path and its permissions.", err=True)
            sys.exit(2)
        except Exception as error:
            if os.environ.get("BAREQUILL_TRACE"):
                raise
            told = " ".join(f"{type(error).__name__}: {error}".split())[:200]
            click.echo(
                f"barequill: Something went wrong here: the fault is Bare Quill's ({told}). With BAREQUILL_TRACE=1 it says where.",
                err=True,
            )
            sys.exit(1)


def run() -> None:
    """The command as it is started: one that is done ends at once, since taking all down takes half a second."""
    code, short = 0, len(sys.argv) > 1 and sys.argv[1] in SHORT
    if short:
        begin_seldom()
    try:
        main()
    except SystemExit as end:
        code = end.code if isinstance(end.code, int) else int(end.code is not None)
        if isinstance(end.code, str):
            sys.stderr.write(end.code + "\n")
    sys.stdout.flush()
    sys.stderr.flush()
    if short:
        os._exit(code)
    sys.exit(code)


@click.group(cls=_Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="barequill")
def main() -> None:
    """Bare Quill: dimensioned drawing sheets from 3D part models.

    Bring a STEP, IGES or B-rep file; get views with hidden lines on a titled sheet.

    Exit codes: 0 done; 2 something that you can put right, told in one line; 1 a fault of Bare Quill's own.
    """


@main.command()
@click.option("--host", default="127.0.0.1", show_default=True, help="Address to listen on.")
@click.option("--port", default=8420, show_default=True, help="Port to listen on.")
def serve(host: str, port: int) -> None:
    """Serve the application.

    Parts and drawings are kept in the folder that BAREQUILL_HOME names, or in ./var.
    """
    from .web.serving import run

    _make_loops()
    run(host, port)


def _make_loops() -> None:
    """Compile what projects, where that has not been done on this machine."""
    from .core.geometry.compiled import complete

    if not complete():
        click.echo("compiling the loops of the projection, once on this machine: it takes some minutes")
        subprocess.run([sys.executable, "-m", "barequill.core.projection.warming"], check=True)


@main.command()
@click.option("--host", default="127.0.0.1", show_default=True, help="Address to listen on.")
@click.option("--port", default=8420, show_default=True, help="Port to listen on.")
@click.option("--fill-only", is_flag=True, help="Fill in the demo data and stop.")
def demo(host: str, port: int, fill_only: bool) -> None:
    """Fill in the Withy Lock demo data (once), then serve the application."""
    from .demo.filling import fill
    from .web.serving import home, run

    _make_loops()
    fill(home(), click.echo)
    if not fill_only:
        run(host, port)


@main.command()
@click.argument("folder", type=click.Path(path_type=Path))
@click.option("--every", default=5.0, show_default=True, help="Seconds from one look to the next.")
@click.option("--once", is_flag=True, help="Look once, at all files, and stop.")
def watch(folder: Path, every: float, once: bool) -> None:
    """Watch a FOLDER for part files: what is new there goes on the shelf, a newer file of a part (by its number, name or file name) as
    the next revision of it, which its drawings are offered."""
    from time import sleep

    from .store import Store
    from .watching import Watch
    from .web.serving import home

    looking = Watch(Store(home()), folder)
    while True:
        for line in looking.look(0.0) if once else looking.look():
            click.echo(line)
        if once:
            return
        sleep(max(every, 0.1))


@main.command()
@click.argument("size", type=float)
@click.argument("name", metavar="CLASS")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def fit(size: float, name: str, as_json: bool) -> None:
    """Print both deviations in µm of a tolerance CLASS such as H7 or g6 on a nominal SIZE in mm (ISO 286-1), or the
    clearances of a pair such as H7/g6."""
    from .core.standards import fits

    def plain(x: float) -> float:
        return int(x) if x == int(x) else x

    if "/" in name:
        pair = fits.fit(size, name)
        figures = {"most": plain(pair.most), "least": plain(pair.least)}
        click.echo(json.dumps(figures) if as_json else f"{size:g} {name}: {pair.words} mm")
        return
    field = fits.fit_field(size, name)
    if as_json:
        click.echo(json.dumps({"upper": plain(field.upper), "lower": plain(field.lower)}))
    else:
        click.echo(f"{size:g} {name}: {field.upper:+g} / {field.lower:+g} µm")


@main.command()
@click.argument("text")
@click.option("--json", "as_json", is_flag=True, help="Print JSON.")
def frame(text: str, as_json: bool) -> None:
    """Print what a tolerance frame says (ISO 1101), typed as one says it: "position Ø0.1(M) A B(M)"; rows by semicolons."""
    from .core.drawing.geometrical import check, frame_of, remarks, sentence, text_of

    found = frame_of(text)
    check(found)
    said = remarks(found)
    if as_json:
        told = found.as_json() | {"words": sentence(found)} | ({"remarks": said} if said else {})
        click.echo(json.dumps(told, ensure_ascii=False))
        return
    click.echo(f"{text_of(found)}\n{sentence(found)}.")
    for remark in said:
        click.echo(f"remark: {remark}")


@main.command()
@click.argument("part", type=click.Path())
@click.option("--json", "as_json", is_flag=True, help="Print JSON with all figures.")
def part(part: str, as_json: bool) -> None:
    """Print what is read from the file PART: unit, size, volume, area, centroid, mass, bodies.

    Lengths are mm, areas mm², volumes mm³, masses g.
    """
    read = reading(part).part()
    summary = read.summary()
    if as_json:
        click.echo(json.dumps(summary, indent=1))
        return
    size = " × ".join(f"{x:.6g}" for x in summary["size"])
    click.echo(f"{read.name or part}{f'  ({read.number})' if read.number and read.number != read.name else ''}")
    click.echo(
        f"  file unit  {read.unit}\n  size       {size} mm\n  volume     {read.volume:.6g} mm³\n  area       {read.area:.6g} mm²"
    )
    click.echo(f"  centroid   {', '.join(f'{c:.6g}' for c in read.centroid)} mm")
    mass = read.mass()
    click.echo(f"  mass       {f'{mass:.6g} g' if mass is not None else 'not known (no density in the file)'}")
    click.echo(f"  {len(read.faces)} faces, {summary['edges']} edges, {len(read.bodies)} bodies:")
    for body in read.bodies:
        made_of = f", {body.material}" if body.material else ""
        click.echo(f"    {body.name}: {body.volume:.6g} mm³, {body.area:.6g} mm²{made_of}")
    for remark in read.remarks:
        click.echo(f"  {remark}")


@main.command()
@click.argument("part", type=click.Path())
@click.option("--json", "as_json", is_flag=True, help="Print JSON with figures, places, and the faces of each.")
def features(part: str, as_json: bool) -> None:
    """Print what the part in the file PART is made of: holes, slots, keyways, bosses, steps, grooves, chamfers, fillets,
    ribs, those alike together, and how they stand to each other.

    Lengths are mm.
    """
    from .core.features.listing import alike_of, features_of, told, words_of, words_of_pattern

    read = reading(part).part()
    if as_json:
        click.echo(json.dumps({"features": told(read)}, indent=1))
        return

    def size(value: float) -> str:
        return f"{value:.6g}"

    for group in alike_of(read):
        first = features_of(read)[group.members[0]]
        stands = words_of_pattern(group.pattern, size) if group.pattern else ""
        click.echo(f"{len(group.members):4}× {words_of(first, size)}{', ' if stands else ''}{stands}")


@main.command()
@click.argument("part", type=click.Path())
@click.option("--sheet", "size", default="auto", show_default=True, help="auto, A0 to A4, or A to E (inch).")
@click.option("--upright", is_flag=True, help="Stand the sheet upright.")
@click.option(
    "--angle",
    type=click.Choice(["first", "third"]),
    default=None,
    help="Projection angle. [default: first; third with ASME]",
)
@click.option(
    "--standard",
    type=click.Choice(["ISO", "ASME"], case_sensitive=False),
    default=None,
    help="Conventions. [default: ISO; ASME on inch sheets]",
)
@click.option("--scale", default="auto", show_default=True, help="auto, or a scale such as 1:2.")
@click.option(
    "--views", default="front,top,left,iso", show_default=True, help="Of front, back, top, bottom, left, right, iso."
)
@click.option("--title", default="", help="Title. [default: the part's name]")
@click.option("--number", default="", help="Identification number. [default: the part's number]")
@click.option("--no-hidden", is_flag=True, help="Leave hidden lines out.")
@click.option("--no-centres", is_flag=True, help="Leave centre marks and centre lines out.")
@click.option("--parts", "folder", default=None, type=click.Path(), help="Folder with the part files of DRAWING.json.")
@click.option("--sheets", default="", help="Of a drawing document these alone, such as 2 or 1-3,5. [default: all]")
@click.option("--archive", is_flag=True, help="A .pdf as PDF/A-3b, with the drawing document and the part in it.")
@click.option("-o", "--output", required=True, type=click.Path(), help="File to write: .pdf, .svg, .dxf or .png.")
def draw(
    part: str,
    size: str,
    upright: bool,
    angle: str | None,
    standard: str | None,
    scale: str,
    views: str,
    title: str,
    number: str,
    no_hidden: bool,
    no_centres: bool,
    folder: str | None,
    sheets: str,
    archive: bool,
    output: str,
) -> None:
    """Draw views of the file PART on a titled sheet, or a drawing document.

    \b
    barequill draw cover.step --views front,left,iso --title "Gear cover" -o cover.pdf
    barequill draw DRAWING.json --parts FOLDER -o cover.pdf
    barequill draw DRAWING.quill -o cover.pdf
    """
    suffix = Path(output).suffix.lower()
    if suffix not in FORMATS:
        raise UserError(f"{output} has no known ending", f"Let it end in one of {', '.join(FORMATS)}.")
    if archive and suffix != ".pdf":
        raise UserError(f"{output} is no PDF", "Only a PDF is written for archives: let it end in .pdf.")
    if Path(part).suffix.lower() in DOCUMENTS:
        draw_document(part, folder, output, suffix, sheets, archive)
        return
    begun = reading(part)
    # loaded and made ready while the part is being read
    from .core.acts import NewDrawing, new_drawing
    from .core.acts.new_drawing import checked_names
    from .core.sheet.stages import draw_sheet
    from .core.standards.scales import parse_scale, scale_text
    from .core.views.placed_view import ProjectionCache

    wanted = None if scale == "auto" else parse_scale(scale)
    if scale != "auto" and wanted is None:
        raise UserError(f"{scale} is not a scale", "Write it as 1:2, 2:1 or auto.")
    sheet_size = None if size.lower() == "auto" else size.upper().replace("X", "x")
    names = [v.strip() for v in views.split(",") if v.strip()]
    checked_names(names, sheet_size)
    make_ready(suffix)
    read = begun.part()
    projections = ProjectionCache(lambda key: read)
    wish = NewDrawing.model_validate(
        {
            "part": read.key,
            "size": sheet_size,
            "landscape": not upright,
            "standard": standard.upper() if standard else None,
            "angle": angle,
            "scale": wanted,
            "views": names,
            "centres": not no_centres,
            "hidden_lines": not no_hidden,
            "fields": {k: v for k, v in (("title", title), ("number", number)) if v},
        }
    )
    drawing = new_drawing(projections, wish)
    sheet = drawing.front_sheet
    ink = draw_sheet(drawing, sheet, projections)
    if archive:
        write(output, for_archives(drawing, [ink], {Path(part).name: Path(part).read_bytes()}))
    else:
        write(output, issued(suffix, [ink]))
    click.echo(f"{output}: {sheet.size}, {len(sheet.views)} views, scale {scale_text(sheet.scale)}")


@main.command()
@click.argument("drawing", type=click.Path())
@click.option("--parts", "folder", default=None, type=click.Path(), help="Folder with the part files of DRAWING.json.")
def check(drawing: str, folder: str | None) -> None:
    """Tell what a checker would mark on each sheet of a drawing document; exit code 1 where there is anything.

    \b
    barequill check DRAWING.quill
    """
    if Path(drawing).suffix.lower() not in DOCUMENTS:
        raise UserError(f"{drawing} is no drawing document", f"Its name ends in one of {', '.join(DOCUMENTS)}.")
    sys.exit(1 if check_document(drawing, folder) else 0)


@main.command()
@click.argument("part", type=click.Path())
@click.option(
    "--view", "view_name", default="front", show_default=True, help="front, back, top, bottom, left, right or iso."
)
@click.option("--toward", default=None, help="Direction from the part to the viewer, X,Y,Z (in place of the view's).")
@click.option("--up", default=None, help="Direction that points up, X,Y,Z.")
@click.option("--no-hidden", is_flag=True, help="Leave hidden curves out.")
@click.option("--no-smooth", is_flag=True, help="Leave tangent edges out.")
@click.option(
    "--cut",
    "planes",
    multiple=True,
    help="Take away what lies beyond the plane PX,PY,PZ:NX,NY,NZ; of several, what lies beyond all of them.",
)
@click.option("-o", "--output", required=True, type=click.Path(), help="JSON file to write.")
def lines(
    part: str,
    view_name: str,
    toward: str | None,
    up: str | None,
    no_hidden: bool,
    no_smooth: bool,
    planes: tuple[str, ...],
    output: str,
) -> None:
    """Write the projected curves of the file PART as JSON, in model mm.

    x is along the view's right, y along its up; each curve has its exact kind, its source and a polyline.
    """
    begun = reading(part)
    from .core.cutting import beyond
    from .core.part.chosen import body_names
    from .core.projection import PRINCIPAL, camera, cut_faces, project

    if view_name not in PRINCIPAL:
        raise UserError(f"There is no view named {view_name}", f"Choose one of {', '.join(PRINCIPAL)}.")
    d, u = PRINCIPAL[view_name]
    d, u = _vector(toward, d), _vector(up, u)
    view = camera(d, u)
    cut = beyond([_plane(text) for text in planes])
    read = begun.part()
    tolerance = 5e-5 * read.size
    curves = [
        {
            "visible": c.visible,
            "class": c.cls,
            "source": c.source,
            "span": list(c.span),
            "also": list(c.also),
            **c.curve.to_json(),
            "points": c.curve.points(tolerance).tolist(),
        }
        for c in project(read, d, u, hidden=not no_hidden, smooth=not no_smooth, cut=cut)
    ]
    data = {
        "unit": "mm",
        "right": view.right.tolist(),
        "up": view.up.tolist(),
        "toward": view.toward.tolist(),
        "curves": curves,
    }
    if cut:
        names = body_names(read)
        faces = cut_faces(read, cut)
        if not faces and not any(c["class"] == "cut" for c in curves):
            raise UserError(
                "The cut misses the part",
                "It takes away all of it, or nothing. The part lies between "
                f"{_figures(read.low)} and {_figures(read.high)} mm.",
            )
        data["cut_faces"] = [
            {"body": names[f.body], "area": f.area, "loops": [view.flat(loop).tolist() for loop in f.loops]}
            for f in faces
        ]
    write(output, json.dumps(data).encode())
    click.echo(f"{output}: {len(curves)} curves")


def _figures(point: Any) -> str:
    return ",".join(f"{x:.6g}" for x in point)


def _plane(text: str) -> tuple[tuple[float, float, float], tuple[float, float, float]]:
    """A point and a normal from PX,PY,PZ:NX,NY,NZ."""
    point, colon, normal = text.partition(":")
    try:
        if not colon:
            raise ValueError
        p, n = (tuple(float(v) for v in half.split(",")) for half in (point, normal))
        if len(p) != 3 or len(n) != 3:
            raise ValueError
    except ValueError:
        raise UserError(
            f"{text} is not a cutting plane", "Write a point and a normal as PX,PY,PZ:NX,NY,NZ, such as 0,0,5:0,0,1."
        ) from None
    return (p[0], p[1], p[2]), (n[0], n[1], n[2])


def _vector(text: str | None, default: tuple[float, float, float]) -> tuple[float, float, float]:
    if text is None:
        return default
    try:
        x, y, z = (float(v) for v in text.split(","))
    except ValueError:
        raise UserError(f"{text} is not a direction", "Write three numbers with commas, such as 0,-1,0.") from None
    return x, y, z


if __name__ == "__main__":
    main()
