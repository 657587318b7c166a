import { useEffect, useRef } from "react";
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  Mesh,
  OrthographicCamera,
  Scene,
  ShaderMaterial,
  Vector3,
  WebGLRenderer,
} from "three";
import type { Fields } from "../api/fields";
import { bordersOf, MOST_BANDS, type Scale } from "./ramps";
import type { View } from "./view";

const VERTEX = `
attribute float value;
varying float v;
void main() {
  v = value;
  gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0);
}`;

export const FRAGMENT = `
uniform vec3 colours[${MOST_BANDS}];
uniform int count;
uniform float borders[${MOST_BANDS + 1}];
uniform float faded;
varying float v;
void main() {
  float band = (v - borders[0]) / (borders[1] - borders[0]);
  for (int i = 1; i < ${MOST_BANDS}; i++)
    if (i < count && v >= borders[i]) band = float(i) + (v - borders[i]) / (borders[i + 1] - borders[i]);
  int k = int(clamp(floor(band), 0.0, float(count - 1)));
  vec3 colour = colours[0];
  for (int i = 0; i < ${MOST_BANDS}; i++) if (i == k) colour = colours[i];
  float nearest = abs(band - floor(band + 0.5));
  float width = max(fwidth(band), 1e-6);
  float inside = step(0.5, band) * step(band, float(count) - 0.5);
  float line = (1.0 - smoothstep(0.2, 1.0, nearest / width)) * inside;
  colour = mix(colour, colour * 0.8, line);
  gl_FragColor = vec4(mix(colour, vec3(0.965, 0.953, 0.925), faded), 1.0);
}`;

function linear(hex: string): Vector3 {
  const c = new Color().setStyle(hex, "srgb-linear");
  return new Vector3(c.r, c.g, c.b);
}

type Stage = {
  renderer: WebGLRenderer;
  scene: Scene;
  camera: OrthographicCamera;
  mesh: Mesh<BufferGeometry, ShaderMaterial>;
};

/** The result field under the plan: bands of colour with thin isolines, drawn by the graphics processor. */
export function FieldCanvas(props: {
  fields: Fields | null;
  values: Float32Array | null;
  scale: Scale | null;
  view: View;
  width: number;
  height: number;
  stale: boolean;
}) {
  const { fields, values, scale, view, width, height, stale } = props;
  const canvas = useRef<HTMLCanvasElement>(null);
  const stage = useRef<Stage | null>(null);

  useEffect(() => {
    const renderer = new WebGLRenderer({ canvas: canvas.current as HTMLCanvasElement, alpha: true, antialias: true });
    renderer.outputColorSpace = "srgb-linear";
    const material = new ShaderMaterial({
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      side: DoubleSide,
      uniforms: {
        colours: { value: Array.from({ length: MOST_BANDS }, () => new Vector3()) },
        count: { value: MOST_BANDS },
        borders: { value: Array.from({ length: MOST_BANDS + 1 }, (_, k) => k) },
        faded: { value: 0 },
      },
    });
    const scene = new Scene();
    const mesh = new Mesh(new BufferGeometry(), material);
    mesh.frustumCulled = false;
    scene.add(mesh);
    stage.current = { renderer, scene, camera: new OrthographicCamera(0, 1, 1, 0, -1, 1), mesh };
    return () => {
      mesh.geometry.dispose();
      material.dispose();
      renderer.dispose();
      stage.current = null;
    };
  }, []);

  useEffect(() => {
    const here = stage.current;
    if (!here) return;
    here.mesh.geometry.dispose();
    here.mesh.geometry = new BufferGeometry();
    if (!fields) return;
    const flat = new Float32Array((fields.xy.length / 2) * 3);
    for (let i = 0; i < fields.xy.length / 2; i++) {
      flat[3 * i] = fields.xy[2 * i] as number;
      flat[3 * i + 1] = fields.xy[2 * i + 1] as number;
    }
    here.mesh.geometry.setAttribute("position", new BufferAttribute(flat, 3));
    here.mesh.geometry.setIndex(new BufferAttribute(fields.triangles, 1));
  }, [fields]);

  useEffect(() => {
    const here = stage.current;
    if (!here || width < 2 || height < 2) return;
    const { renderer, mesh, camera, scene } = here;
    renderer.setPixelRatio(window.devicePixelRatio);
    renderer.setSize(width, height, false);
    mesh.visible = Boolean(fields && values && scale);
    if (fields && values && scale) {
      mesh.geometry.setAttribute("value", new BufferAttribute(values, 1));
      const u = mesh.material.uniforms as Record<string, { value: unknown }>;
      (u.colours as { value: Vector3[] }).value = Array.from({ length: MOST_BANDS }, (_, k) =>
        linear(scale.colours[Math.min(k, scale.colours.length - 1)] as string),
      );
      (u.count as { value: number }).value = scale.colours.length;
      const borders = bordersOf(scale);
      (u.borders as { value: number[] }).value = Array.from(
        { length: MOST_BANDS + 1 },
        (_, k) => borders[Math.min(k, borders.length - 1)] as number,
      );
      (u.faded as { value: number }).value = stale ? 0.6 : 0;
    }
    camera.left = -view.x / view.k;
    camera.right = (width - view.x) / view.k;
    camera.top = view.y / view.k;
    camera.bottom = (view.y - height) / view.k;
    camera.updateProjectionMatrix();
    renderer.render(scene, camera);
  }, [fields, values, scale, view, width, height, stale]);

  return (
    <canvas
      ref={canvas}
      className="field"
      style={{
        width,
        height,
        // A canvas that shows nothing must not be composed on every frame.
        display: values ? "block" : "none",
      }}
      tabIndex={-1}
      aria-label="Result field; its values are read under the pointer"
    />
  );
}
