import { Color, DoubleSide, BackSide, ShaderMaterial, Vector2, Vector3 } from "three";
import { ink } from "../theme/inks";

const FILL_VERTEX = /* glsl */ `
      uniform vec3 fill;
      varying vec3 vFill;
      varying vec3 vView;
      varying vec3 vWorld;
      void main() {
        #ifdef USE_COLOR
          vFill = color;
        #else
          vFill = fill;
        #endif
        vec4 world = modelMatrix * vec4(position, 1.0);
        vWorld = world.xyz;
        vec4 view = modelViewMatrix * vec4(position, 1.0);
        vView = view.xyz;
        gl_Position = projectionMatrix * view;
      }`;

const FILL_FRAGMENT = /* glsl */ `
      uniform vec3 hatch;
      uniform vec3 ink;
      uniform vec3 paper;
      uniform vec3 low;
      uniform vec3 high;
      uniform vec3 round;
      uniform float cut;
      uniform float steep;
      varying vec3 vFill;
      varying vec3 vView;
      varying vec3 vWorld;
      void main() {
        if (vWorld.z > cut) discard;
        vec3 n = normalize(cross(dFdx(vView), dFdy(vView)));
        float light = dot(n, normalize(vec3(-0.35, 0.75, 0.6)));
        vec3 tone = vFill * (0.80 + 0.20 * light);
        if (!gl_FrontFacing) {
          vec2 cell = mod(gl_FragCoord.xy + vec2(0.0, 3.0 * floor(mod(gl_FragCoord.x / 6.0, 2.0))), 6.0) - 3.0;
          tone = dot(cell, cell) < 2.2 ? vFill * 0.45 : vFill * 0.92 + 0.08;
          // Through a cut the eye meets the inside of a closed body everywhere within the section, and only there:
          // so the inside, drawn flat and hatched, is the section.
          if (cut < 1e11) tone = mod(gl_FragCoord.x - gl_FragCoord.y, 7.0) < 1.7 ? ink : vFill * 0.5 + 0.5;
        }
        // What hangs over is stippled: surface that faces down by more than the machine's angle, off the plate.
        vec3 facing = normalize(cross(dFdx(vWorld), dFdy(vWorld)));
        if (gl_FrontFacing && -facing.z > steep && vWorld.z > 0.02) {
          vec2 dot3 = mod(gl_FragCoord.xy + vec2(0.0, 2.5 * floor(mod(gl_FragCoord.x / 5.0, 2.0))), 5.0) - 2.5;
          if (dot(dot3, dot3) < 1.7) tone = ink;
        }
        bool outside = any(lessThan(vWorld, low)) || any(greaterThan(vWorld, high)) || distance(vWorld.xy, round.xy) > round.z;
        if (outside) {
          float band = mod(gl_FragCoord.x + gl_FragCoord.y, 14.0);
          tone = mix(tone, paper, 0.55);
          if (band < 3.0) tone = hatch;
        }
        gl_FragColor = vec4(tone, 1.0);
        #include <colorspace_fragment>
      }`;

/**
 * The matt fill of a body, or (null) of many, with a colour at each vertex. Facets are shaded flat from screen derivatives; what lies outside the
 * machine gets a wide hatch, and the inside of an open surface a stipple, so both read without colour.
 */
export function fillMaterial(colour: string | null): ShaderMaterial {
  return new ShaderMaterial({
    vertexColors: colour === null,
    side: DoubleSide,
    polygonOffset: true,
    polygonOffsetFactor: 1,
    polygonOffsetUnits: 2,
    uniforms: {
      fill: { value: new Color(colour ?? "#ffffff") },
      hatch: { value: new Color(ink("--stop")) },
      ink: { value: new Color(ink("--ink")) },
      paper: { value: new Color(ink("--paper")) },
      low: { value: new Vector3(-1e9, -1e9, -1e9) },
      high: { value: new Vector3(1e9, 1e9, 1e9) },
      round: { value: new Vector3(0, 0, 1e12) },
      cut: { value: 1e12 },
      steep: { value: 2 },
    },
    vertexShader: FILL_VERTEX,
    fragmentShader: FILL_FRAGMENT,
  });
}

/**
 * The outline: back faces in ink, pushed sideways by a pixel or so on the screen, so that they peek
 * out wherever the surface turns away. Drawn once per direction in `OUTLINE_PUSHES`.
 */
export function outlineMaterial(push: [number, number], size: Vector2): ShaderMaterial {
  return new ShaderMaterial({
    side: BackSide,
    uniforms: {
      ink: { value: new Color(ink("--ink")) },
      push: { value: new Vector2(...push) },
      size: { value: size },
      cut: { value: 1e12 },
    },
    vertexShader: /* glsl */ `
      uniform vec2 push;
      uniform vec2 size;
      void main() {
        gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
        gl_Position.xy += push * 2.0 / size * gl_Position.w;
        gl_Position.z += 0.0002 * gl_Position.w;
      }`,
    fragmentShader: /* glsl */ `
      uniform vec3 ink;
      uniform float cut;
      void main() {
        // Where a cut is, the inside is drawn as the section, not as outline.
        if (cut < 1e11) discard;
        gl_FragColor = vec4(ink, 1.0);
        #include <colorspace_fragment>
      }`,
  });
}

export const OUTLINE_PUSHES: [number, number][] = [
  [1.1, 0],
  [-1.1, 0],
  [0, 1.1],
  [0, -1.1],
];
