"""Bodies as 3MF: for printers, with the colours of faces and the pictures on them."""

from __future__ import annotations

import io
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass, field
from xml.sax.saxutils import quoteattr

import numpy as np

from supplecast.art.look import Look
from supplecast.art.picture import as_png, over
from supplecast.exchange.triangles import Part, Printed
from supplecast.geometry import Floats
from supplecast.text import cleaned

_CONTENT_TYPES = (
    '<?xml version="1.0" encoding="UTF-8"?>\n<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
    '<Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/>'
    '<Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/>'
    '<Default Extension="png" ContentType="image/png"/></Types>'
)
_RELATIONS = (
    '<?xml version="1.0" encoding="UTF-8"?>\n'
    '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
    '<Relationship Target="/3D/3dmodel.model" Id="rel0" '
    'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'
)


_MODEL_RELATIONS = '<?xml version="1.0" encoding="UTF-8"?>\n<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
_MATERIALS = 1  # the id of the list of looks


def write_3mf(parts: Sequence[Part]) -> bytes:
    """3MF core package with the materials extension, mm: one object for each part, with its name, the colour of each face, and
    what is printed on it. Prints are laid on the colour beneath; of two on one triangle the later is painted.
    """
    package = _Package()
    objects, items = [], []
    for part in parts:
        number = package.take()
        objects.append(_object(package, part, number))
        items.append(f'<item objectid="{number}"/>')
    model = (
        '<?xml version="1.0" encoding="UTF-8"?>\n<model unit="millimeter" xml:lang="en-US" '
        'xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02" '
        'xmlns:m="http://schemas.microsoft.com/3dmanufacturing/material/2015/02">'
        '<metadata name="Application">Supple Cast</metadata>'
        f'<resources><basematerials id="{_MATERIALS}">{"".join(package.looks)}</basematerials>'
        f"{''.join(package.pictures)}{''.join(objects)}</resources>"
        f"<build>{''.join(items)}</build></model>"
    )
    return package.written(model)


@dataclass
class _Package:
    """What a package holds so far: looks, pictures with their files, and the next free id."""

    looks: list[str] = field(default_factory=list)
    pictures: list[str] = field(default_factory=list)
    files: list[tuple[str, bytes]] = field(default_factory=list)
    free: int = _MATERIALS + 1

    def take(self) -> int:
        self.free += 1
        return self.free - 1

    def look(self, name: str, look: Look) -> int:
        cover = f"{round(255 * look.cover):02X}"
        self.looks.append(f"<base name={quoteattr(cleaned(name))} displaycolor={quoteattr(look.colour.upper() + cover)}/>")
        return len(self.looks) - 1

    def print(self, one: Printed, ground: str) -> int:
        """The id of a group of the places in a picture that a print's triangles have, three each, in their order."""
        texture, group = self.take(), self.take()
        path = f"/3D/Textures/{texture}.png"
        laid = over(one.sheet, ground)
        laid = laid[:, 1:-1] if one.endless else laid  # what meets itself has no rim there
        self.files.append((path, as_png(laid)))
        u, v = one.corners[..., 0], one.corners[..., 1]
        high, wide = laid.shape[:2]
        places: Floats = np.stack(
            [u if one.endless else (u * (wide - 2) + 1) / wide, 1 - (v * (high - 2) + 1) / high], axis=-1
        ).reshape(-1, 2)
        coordinates = "".join(f'<m:tex2coord u="{x:.7g}" v="{y:.7g}"/>' for x, y in places.tolist())
        style = "wrap" if one.endless else "clamp"
        self.pictures.append(
            f'<m:texture2d id="{texture}" path="{path}" contenttype="image/png" tilestyleu="{style}" tilestylev="clamp"/>'
            f'<m:texture2dgroup id="{group}" texid="{texture}">{coordinates}</m:texture2dgroup>'
        )
        return group

    def written(self, model: str) -> bytes:
        kind = "http://schemas.microsoft.com/3dmanufacturing/2013/01/3dtexture"
        links = "".join(f'<Relationship Target="{path}" Id="rel{k}" Type="{kind}"/>' for k, (path, _) in enumerate(self.files))
        named = [("3D/_rels/3dmodel.model.rels", f"{_MODEL_RELATIONS}{links}</Relationships>".encode())] if self.files else []
        named += [(path.lstrip("/"), content) for path, content in self.files]
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
            for name, content in (
                ("[Content_Types].xml", _CONTENT_TYPES.encode()),
                ("_rels/.rels", _RELATIONS.encode()),
                ("3D/3dmodel.model", model.encode()),
                *named,
            ):
                info = zipfile.ZipInfo(name, date_time=(2020, 1, 1, 0, 0, 0))
                info.compress_type = zipfile.ZIP_DEFLATED
                package.writestr(info, content)
        return out.getvalue()


def _object(package: _Package, part: Part, number: int) -> str:
    names = [part.name, *(f"{part.name}, {k}" for k in range(2, len(part.worn) + 1))]
    looks = [package.look(name, look) for name, look in zip(names, part.worn, strict=True)]
    points, triangles, rows = part.mesh.welding()
    of = part.look_of
    worn = {row: f' pid="{_MATERIALS}" p1="{looks[of[row]]}"' for row in np.flatnonzero(of).tolist()}
    for one in part.prints:
        if not len(one.rows):
            continue
        group = package.print(one, part.worn[int(of[one.rows[0]])].colour)
        worn |= {
            row: f' pid="{group}" p1="{3 * k}" p2="{3 * k + 1}" p3="{3 * k + 2}"' for k, row in enumerate(one.rows.tolist())
        }
    vertices = "".join(f'<vertex x="{x:.9g}" y="{y:.9g}" z="{z:.9g}"/>' for x, y, z in points.tolist())
    faces = "".join(
        f'<triangle v1="{a}" v2="{b}" v3="{c}"{worn.get(row, "")}/>'
        for (a, b, c), row in zip(triangles.tolist(), rows.tolist(), strict=True)
    )
    return (
        f'<object id="{number}" type="model" name={quoteattr(cleaned(part.name))} pid="{_MATERIALS}" pindex="{looks[0]}">'
        f"<mesh><vertices>{vertices}</vertices><triangles>{faces}</triangles></mesh></object>"
    )
