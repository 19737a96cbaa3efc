// What the page carries: numbers as JSON, fields as one compressed block.

/** Undoes delta coding and byte planes of 16-bit numbers. */
function decode16(bytes, length) {
  const out = new Uint16Array(length);
  let value = 0;
  for (let i = 0; i < length; ++i) {
    value = (value + bytes[i] + 256 * bytes[length + i]) & 0xffff;
    out[i] = value;
  }
  return out;
}

/** Undoes delta coding of 8-bit numbers. */
function decode8(bytes) {
  const out = new Uint8Array(bytes.length);
  let value = 0;
  for (let i = 0; i < bytes.length; ++i) {
    value = (value + bytes[i]) & 0xff;
    out[i] = value;
  }
  return out;
}

async function unpack(text) {
  const packed = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
  const stream = new Blob([packed]).stream().pipeThrough(new DecompressionStream("deflate"));
  return new Uint8Array(await new Response(stream).arrayBuffer());
}

/** Positions and triangles of a geometry. */
function readGeometry(g, part) {
  const raw = decode16(part(g.positions), 3 * g.vertices);
  const positions = new Float32Array(raw.length);
  for (let axis = 0; axis < 3; ++axis) {
    const low = g.box[axis], step = (g.box[axis + 3] - low) / 65535;
    for (let v = 0; v < g.vertices; ++v) positions[3 * v + axis] = low + step * raw[axis * g.vertices + v];
  }
  const planes = part(g.indices), indices = new Uint32Array(3 * g.triangles), length = indices.length;
  let value = 0;
  for (let i = 0; i < length; ++i) {
    value = (value + planes[i] + 256 * planes[length + i] + 65536 * planes[2 * length + i]) & 0xffffff;
    indices[i] = value;
  }
  return { ...g, positions, indices };
}

/** The geometry of a model's page. */
export async function readFaces(description, text) {
  const all = await unpack(text);
  return readGeometry(description.geometry, ([offset, bytes]) => all.subarray(offset, offset + bytes));
}

/** The studies with their geometry and frames, or null where the page carries no fields. */
export async function readFields(description, text) {
  if (!description.geometries.length) return null;
  const all = await unpack(text);
  const part = ([offset, bytes]) => all.subarray(offset, offset + bytes);
  const geometries = description.geometries.map((g) => ({
    ...readGeometry(g, part), boxPart: decode8(part(g.boxPart)), solids: readGeometry(g.solids, part),
  }));
  const studies = description.studies.map((s) => ({
    ...s,
    frames: s.frames.map((f) => ({
      ...f,
      raw: () => decode16(part(f.vertices), geometries[s.geometry].vertices),
      boxes: () => decode8(part(f.boxes)),
    })),
  }));
  return { parts: description.parts, geometries, studies };
}
