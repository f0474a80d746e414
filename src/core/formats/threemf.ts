import { strToU8, zipSync } from 'fflate';
import type { TriangleMesh } from '../geometry/mesh';

const escape = (text: string) =>
  text.replace(/[<>&"]/g, (c) => ({ '<': '&lt;', '>': '&gt;', '&': '&amp;', '"': '&quot;' })[c] as string);

/** 3MF package of bodies given in metres; written in millimetres with names and colours. */
export function write3mf(bodies: readonly { name: string; colour: string | null; mesh: TriangleMesh }[]): Uint8Array {
  const objects: string[] = [];
  const materials: string[] = [];
  bodies.forEach(({ name, colour, mesh }, i) => {
    const material = colour ? ` pid="1" pindex="${materials.length}"` : '';
    if (colour) materials.push(`<base name="${escape(name)}" displaycolor="${colour.toUpperCase()}"/>`);
    const lines: string[] = [];
    const { positions: p, triangles: t } = mesh;
    for (let v = 0; v < p.length; v += 3)
      lines.push(`<vertex x="${mm(p[v])}" y="${mm(p[v + 1])}" z="${mm(p[v + 2])}"/>`);
    const faces: string[] = [];
    for (let c = 0; c < t.length; c += 3) faces.push(`<triangle v1="${t[c]}" v2="${t[c + 1]}" v3="${t[c + 2]}"/>`);
    objects.push(
      `<object id="${i + 2}" type="model" name="${escape(name)}"${material}><mesh><vertices>${lines.join('')}</vertices><triangles>${faces.join('')}</triangles></mesh></object>`,
    );
  });
  const model = `<?xml version="1.0" encoding="UTF-8"?>
<model unit="millimeter" xml:lang="en-US" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>${
    materials.length ? `<basematerials id="1">${materials.join('')}</basematerials>` : ''
  }${objects.join('')}</resources><build>${bodies.map((_, i) => `<item objectid="${i + 2}"/>`).join('')}</build></model>`;
  return zipSync({
    '[Content_Types].xml': strToU8(
      '<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>',
    ),
    '_rels/.rels': strToU8(
      '<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>',
    ),
    '3D/3dmodel.model': strToU8(model),
  });
}

/** Ten digits: a tenth of a nanometre on a metre, and no two vertices of a mesh fall together. */
const mm = (x: number) => Number((1000 * x).toPrecision(10));
