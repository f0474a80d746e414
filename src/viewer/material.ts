import * as THREE from 'three';
import { mapTexels, type ColourMap } from './colour';
import { FRAME_VALUE, NO_FRAMES } from './frames';
import { NO_VALUE } from './results';

/** Uniforms shared by the part's surface and the section's cap: one change recolours both. */
export interface FieldUniforms {
  [name: string]: THREE.IUniform;
  uField: THREE.IUniform<boolean>;
  uRange: THREE.IUniform<THREE.Vector2>;
  uBrush: THREE.IUniform<THREE.Vector2>;
  uTime: THREE.IUniform<number>;
  uFront: THREE.IUniform<boolean>;
  /** Nothing is drawn where the field has no value. */
  uBare: THREE.IUniform<boolean>;
  /** Time between isochrones, s; 0 draws none. */
  uIso: THREE.IUniform<number>;
  /** Step and one value of the lines of equal value; a step of 0 draws none. */
  uLines: THREE.IUniform<THREE.Vector2>;
  /** Offsets of the vertices are drawn so many times as large. */
  uDeform: THREE.IUniform<number>;
  uClipOn: THREE.IUniform<boolean>;
  /** Points with n.x + w > 0 are cut away; mm. */
  uPlane: THREE.IUniform<THREE.Vector4>;
  uClay: THREE.IUniform<THREE.Color>;
  uAccent: THREE.IUniform<THREE.Color>;
  uMap: THREE.IUniform<THREE.Texture>;
}

const mapTexture = (map: ColourMap): THREE.DataTexture => {
  const texture = new THREE.DataTexture(mapTexels(256, map), 256, 1);
  texture.magFilter = THREE.LinearFilter;
  texture.minFilter = THREE.LinearFilter;
  texture.needsUpdate = true;
  return texture;
};

/** Colour maps of one viewer. */
export const mapTextures = (): Record<ColourMap, THREE.Texture> => ({
  sequential: mapTexture('sequential'),
  diverging: mapTexture('diverging'),
});

export function fieldUniforms(colours: THREE.Texture): FieldUniforms {
  return {
    uField: { value: false },
    uRange: { value: new THREE.Vector2(0, 1) },
    uBrush: { value: new THREE.Vector2(-NO_VALUE, NO_VALUE) },
    uTime: { value: 1e20 },
    uFront: { value: false },
    uBare: { value: false },
    uIso: { value: 0 },
    uLines: { value: new THREE.Vector2(0, 0) },
    uDeform: { value: 0 },
    uClipOn: { value: false },
    uPlane: { value: new THREE.Vector4(1, 0, 0, 0) },
    uClay: { value: new THREE.Color('#cbbfae') },
    uAccent: { value: new THREE.Color('#b4632d') },
    uMap: { value: colours },
  };
}

/** Values come by the number of the vertex, or by that of the ring of vertices it belongs to. */
const VERTEX = /* glsl */ `
${FRAME_VALUE}
#ifdef RINGS
attribute float ring;
#endif
#ifdef CAP
attribute float aCore, aCoreTime;
varying float vCore, vCoreTime;
#endif
attribute float aTime;
attribute vec3 aOffset;
uniform float uDeform;
varying float vValue;
varying float vTime;
varying vec3 vDrawn;
varying vec3 vView;
void main() {
#ifdef RINGS
  vValue = frameValue(int(ring));
#else
  vValue = frameValue(gl_VertexID);
#endif
#ifdef CAP
  vCore = aCore;
  vCoreTime = aCoreTime;
#endif
  vTime = aTime;
  // What is cut is the drawing: a section that stays at its places goes with them to where the shape has them.
  vDrawn = position;
  vec4 seen = modelViewMatrix * vec4(position + uDeform * aOffset, 1.0);
  vView = seen.xyz;
  gl_Position = projectionMatrix * seen;
}`;

/** Flat facets: curved walls come finely tessellated, edges stay crisp. Soft light from the eye's upper left,
 * sky from above, and enough of it everywhere to read a wall. */
export const LIGHT = /* glsl */ `
float lightOn(vec3 seen) {
  vec3 n = normalize(cross(dFdx(seen), dFdy(seen)));
  vec3 light = normalize(vec3(-0.45, 0.55, 0.85));
  return max(dot(n, light), 0.0) * 0.34 + (n.y * 0.5 + 0.5) * 0.22 + 0.5;
}`;

/** Colour of a value on the scale. */
const COLOUR = /* glsl */ `
uniform vec2 uRange;
uniform sampler2D uMap;
vec3 colourOf(float value) {
  float t = clamp((value - uRange.x) / max(uRange.y - uRange.x, 1e-30), 0.0, 1.0);
  return texture2D(uMap, vec2(t * 0.996 + 0.002, 0.5)).rgb;
}`;

const FRAGMENT = /* glsl */ `
${LIGHT}
${COLOUR}
uniform bool uField, uFront, uClipOn, uCap, uBare;
uniform vec2 uBrush, uLines;
uniform float uTime, uIso;
uniform vec4 uPlane;
uniform vec3 uClay, uAccent;
varying float vValue, vTime;
varying vec3 vDrawn, vView;
#ifdef CAP
varying float vCore, vCoreTime;
#endif
const vec3 LINE = vec3(0.13, 0.11, 0.09);
// A line where the phase is whole. Where the surface is seen edge-on lines would merge into a blot: they fade there.
float lineAt(float phase) {
  float width = fwidth(phase);
  // Where nothing changes there is no line, though all of it may lie on one.
  if (width < 1e-5) return 0.0;
  float away = abs(fract(phase + 0.5) - 0.5) / width;
  return (1.0 - smoothstep(0.5, 1.3, away)) * (1.0 - smoothstep(0.25, 0.5, width));
}
void main() {
#ifdef CAP
  // Where a fluid has come into the core the cut is open.
  if (vCore > 0.0 && vCoreTime <= uTime) discard;
#endif
  if (uClipOn && !uCap && dot(uPlane.xyz, vDrawn) + uPlane.w > 0.0) discard;
  float lit = lightOn(vView);
  bool filled = uField && vValue < 1e29 && vTime <= uTime;
  if (uBare && !uCap && !filled) discard;
  vec3 base = uClay;
  if (filled) {
    if (vValue < uBrush.x || vValue > uBrush.y) discard;
    base = colourOf(vValue);
    lit = 0.5 + 0.52 * lit;
  } else if (!gl_FrontFacing && !uCap) {
    base *= 0.78;
  }
  if (uCap) lit = filled ? 1.0 : 0.86;
  vec3 colour = base * lit;
  if (filled && uIso > 0.0) colour = mix(colour, LINE, 0.75 * lineAt(vTime / uIso));
  if (filled && uLines.x > 0.0) colour = mix(colour, LINE, 0.75 * lineAt((vValue - uLines.y) / uLines.x));
  if (filled && uFront) {
    float behind = (uTime - vTime) / max(fwidth(vTime), 1e-12);
    colour = mix(uAccent, colour, smoothstep(0.8, 2.2, behind));
  }
  gl_FragColor = vec4(colour, 1.0);
}`;

/** What is drawn: the surface itself, the face a section cuts, or lengths of runner. */
export type Drawn = 'surface' | 'cap' | 'rings';

/** Material of something drawn in the colours of a field; the frames that it reads are put in from outside. */
export function surfaceMaterial(uniforms: FieldUniforms, drawn: Drawn): THREE.ShaderMaterial {
  const cap = drawn === 'cap';
  return new THREE.ShaderMaterial({
    uniforms: { ...uniforms, ...NO_FRAMES, uCap: { value: cap } },
    defines: drawn === 'rings' ? { RINGS: '' } : cap ? { CAP: '' } : {},
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    side: THREE.DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 1,
    ...(cap
      ? {
          stencilWrite: true,
          stencilRef: 0,
          stencilFunc: THREE.NotEqualStencilFunc,
          stencilFail: THREE.ReplaceStencilOp,
          stencilZFail: THREE.ReplaceStencilOp,
          stencilZPass: THREE.ReplaceStencilOp,
        }
      : {}),
  });
}

/** Material of the faces that close pieces, in the colour of the value that they lie on. */
export function closingMaterial(uniforms: FieldUniforms): THREE.ShaderMaterial {
  const { uRange, uMap, uDeform, uClipOn, uPlane } = uniforms;
  return new THREE.ShaderMaterial({
    uniforms: { uRange, uMap, uDeform, uClipOn, uPlane },
    vertexShader: /* glsl */ `
attribute vec3 aOffset;
attribute float aLevel;
uniform float uDeform;
varying vec3 vDrawn, vView;
varying float vLevel;
void main() {
  vDrawn = position;
  vLevel = aLevel;
  vec4 seen = modelViewMatrix * vec4(position + uDeform * aOffset, 1.0);
  vView = seen.xyz;
  gl_Position = projectionMatrix * seen;
}`,
    fragmentShader: /* glsl */ `
${LIGHT}
${COLOUR}
uniform bool uClipOn;
uniform vec4 uPlane;
varying vec3 vDrawn, vView;
varying float vLevel;
void main() {
  if (uClipOn && dot(uPlane.xyz, vDrawn) + uPlane.w > 0.0) discard;
  gl_FragColor = vec4(colourOf(vLevel) * (0.5 + 0.52 * lightOn(vView)), 1.0);
}`,
    side: THREE.DoubleSide,
  });
}

/** Counts, along each line of sight, how often the cut solid is left minus entered: what is not 0 gets a cap. */
export function stencilMaterial(uniforms: FieldUniforms, side: THREE.Side): THREE.ShaderMaterial {
  const op = side === THREE.BackSide ? THREE.IncrementWrapStencilOp : THREE.DecrementWrapStencilOp;
  return new THREE.ShaderMaterial({
    uniforms: { uPlane: uniforms.uPlane, uDeform: uniforms.uDeform },
    vertexShader: `attribute vec3 aOffset; uniform float uDeform; varying vec3 vDrawn; void main() { vDrawn = position; gl_Position = projectionMatrix * modelViewMatrix * vec4(position + uDeform * aOffset, 1.0); }`,
    fragmentShader: `uniform vec4 uPlane; varying vec3 vDrawn; void main() { if (dot(uPlane.xyz, vDrawn) + uPlane.w > 0.0) discard; gl_FragColor = vec4(1.0); }`,
    side,
    colorWrite: false,
    depthWrite: false,
    depthTest: false,
    stencilWrite: true,
    stencilFunc: THREE.AlwaysStencilFunc,
    stencilFail: op,
    stencilZFail: op,
    stencilZPass: op,
  });
}
