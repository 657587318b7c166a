import * as Dialog from "@radix-ui/react-dialog";
import { useEffect, useMemo, useRef, useState } from "react";
import {
  BufferAttribute,
  BufferGeometry,
  Color,
  DoubleSide,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
  ShaderMaterial,
} from "three";
import { fetchOwn } from "../api/entry";
import { saveAs } from "../api/files";
import { chosenReading, chosenText, useDisplay } from "../display/display";
import { colourAt, scaleOf } from "../plan/ramps";
import { type FieldValues, fieldRequest, readField, useReadings } from "../readings/readings";
import { usePicked, useStale } from "../session";
import { useUnits } from "../units/quantities";
import { resultOf } from "../units/results";
import { fileName, filmOf, pictureOf } from "./keeping";
import { geometryOf, solidsOf } from "./solids";
import { stageIn } from "./stage";

const VERTEX = `
attribute float sink;
attribute vec3 tint;
uniform float amount;
varying vec3 shade;
varying vec3 place;
void main() {
  shade = tint;
  vec3 moved = vec3(position.xy, position.z - amount * sink);
  vec4 seen = modelViewMatrix * vec4(moved, 1.0);
  place = seen.xyz;
  gl_Position = projectionMatrix * seen;
}`;
const FACES = `
varying vec3 shade;
varying vec3 place;
void main() {
  vec3 normal = normalize(cross(dFdx(place), dFdy(place)));
  float light = 0.72 + 0.28 * abs(dot(normal, normalize(vec3(0.3, 0.5, 0.8))));
  gl_FragColor = vec4(shade * light, 1.0);
}`;
const EDGES = `
varying vec3 shade;
void main() {
  gl_FragColor = vec4(0.12, 0.165, 0.21, 0.28);
}`;

/** Seconds of one movement down and up again. */
const PERIOD = 2.6;
/** The greatest deflection is drawn as this share of the floor's length. */
const SHARE = 0.06;

/** The deflected floor in space, to a scale of one's own, moving on request; supports stand still beneath it. */
export function MovingView(props: { close: () => void }) {
  const { document, fields, shownRun, floor, say } = usePicked("document", "fields", "shownRun", "floor", "say");
  const stale = useStale();
  const display = useDisplay();
  const catalogue = useReadings((r) => r.catalogue);
  const system = useUnits((u) => u.system);
  const holder = useRef<HTMLDivElement>(null);
  const [ready, setReady] = useState(false);
  const [field, setField] = useState<FieldValues | null>(null);
  const [of, setOf] = useState<string | null>(null);
  const still = useMemo(() => window.matchMedia("(prefers-reduced-motion: reduce)").matches, []);
  const [moving, setMoving] = useState(!still);
  const [exaggeration, setExaggeration] = useState<number | null>(null);
  const [withMesh, setWithMesh] = useState(true);
  const amount = useRef({
    set: (_: number) => undefined as unknown,
    edges: (_: boolean) => undefined as unknown,
    draw: () => undefined as unknown,
  });
  const [filming, setFilming] = useState(false);

  const chosen = useMemo(
    () => chosenReading(catalogue, { ...display, quantity: "w", kind: "all", of: of ?? display.of }),
    [catalogue, display, of],
  );
  const request = shownRun !== null && chosen ? fieldRequest(shownRun, "w", chosen, null, false) : "";
  useEffect(() => {
    let alive = true;
    if (request)
      void fetchOwn(request)
        .then((r) => (r.ok ? r.arrayBuffer() : null))
        .then((b) => alive && b && setField(readField(b)));
    return () => {
      alive = false;
    };
  }, [request]);

  const length = useMemo(() => {
    if (!fields) return 1;
    let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY];
    for (let i = 0; i < fields.xy.length; i += 2) {
      low = Math.min(low, fields.xy[i] as number);
      high = Math.max(high, fields.xy[i] as number);
    }
    return Math.max(1, high - low);
  }, [fields]);
  const most = field ? Math.max(Math.abs(field.least), Math.abs(field.greatest), 1e-9) : 1;
  // Round numbers: 1, 2 or 5 times a power of ten.
  const fitting = niceFactor((1000 * SHARE * length) / most);
  const factor = exaggeration ?? fitting;

  useEffect(() => {
    const element = holder.current;
    if (!element || !ready || !document || !fields || !field || field.values.length !== fields.xy.length / 2) return;
    const count = field.values.length;
    const positions = new Float32Array(3 * count);
    const tints = new Float32Array(3 * count);
    const scale = scaleOf(field.least, field.greatest, field.least > -0.15 * field.greatest);
    for (let i = 0; i < count; i++) {
      positions[3 * i] = fields.xy[2 * i] as number;
      positions[3 * i + 1] = fields.xy[2 * i + 1] as number;
      const colour = new Color().setStyle(colourAt(scale, field.values[i] as number), "srgb-linear");
      tints.set([colour.r, colour.g, colour.b], 3 * i);
    }
    const geometry = (index: Uint32Array) => {
      const made = new BufferGeometry();
      made.setAttribute("position", new BufferAttribute(positions, 3));
      made.setAttribute("sink", new BufferAttribute(field.values, 1));
      made.setAttribute("tint", new BufferAttribute(tints, 3));
      made.setIndex(new BufferAttribute(index, 1));
      return made;
    };
    const uniforms = { amount: { value: 0 } };
    const faces = new Mesh(
      geometry(fields.triangles),
      new ShaderMaterial({ vertexShader: VERTEX, fragmentShader: FACES, uniforms, side: DoubleSide }),
    );
    const edges = new LineSegments(
      geometry(fields.edges),
      new ShaderMaterial({ vertexShader: VERTEX, fragmentShader: EDGES, uniforms, transparent: true }),
    );
    faces.frustumCulled = false;
    edges.frustumCulled = false;
    const lines = new LineBasicMaterial({ color: "#1e2a35", transparent: true, opacity: 0.35 });
    const bodies = solidsOf(document)
      .filter((s) => !s.faint)
      .map((s) => {
        const upright = s.ref.kind === "columns" || s.ref.kind === "walls";
        const mesh = new Mesh(
          geometryOf(s),
          new MeshLambertMaterial({ color: "#8d97a0", transparent: true, opacity: upright ? 0.55 : 0 }),
        );
        mesh.material.depthWrite = upright;
        mesh.add(new LineSegments(new EdgesGeometry(mesh.geometry, 25), lines));
        return mesh;
      });
    const stage = stageIn(element, "The deflected floor; drag to turn, wheel to come nearer", [
      ...bodies,
      faces,
      edges,
    ]);
    stage.renderer.outputColorSpace = "srgb-linear";
    // A film and a picture have the sheet's ground, not none.
    stage.renderer.setClearColor(new Color().setStyle("#fbfaf6", "srgb-linear"), 1);
    amount.current = {
      set: (value) => {
        uniforms.amount.value = value;
        stage.render();
      },
      edges: (visible) => {
        edges.visible = visible;
        stage.render();
      },
      draw: () => stage.render(),
    };
    return () => {
      amount.current = { set: () => undefined, edges: () => undefined, draw: () => undefined };
      for (const b of [...bodies, faces, edges]) {
        b.geometry.dispose();
        b.material.dispose();
      }
      stage.end();
    };
  }, [document, fields, field, ready]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new scene starts at rest and takes the amount anew
  useEffect(() => {
    amount.current.edges(withMesh);
  }, [withMesh, field, ready]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new scene starts at rest and takes the amount anew
  useEffect(() => {
    // Deflections are in mm, the scene in m.
    const whole = factor / 1000;
    if (!moving) {
      amount.current.set(whole);
      return;
    }
    let frame = 0;
    const start = performance.now();
    const step = (now: number) => {
      const phase = (1 - Math.cos((2 * Math.PI * (now - start)) / 1000 / PERIOD)) / 2;
      amount.current.set(whole * phase);
      frame = requestAnimationFrame(step);
    };
    frame = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame);
  }, [moving, factor, field, ready]);

  const canvas = () => holder.current?.querySelector("canvas") ?? null;
  const film = async () => {
    const element = canvas();
    if (!element) return;
    setMoving(true);
    setFilming(true);
    // One movement down and up again, so that it can be shown in a loop.
    const made = await filmOf(element, PERIOD);
    setFilming(false);
    if (typeof made === "string") say(made, true);
    else saveAs(made, fileName(floor?.name ?? "", `deflected under ${chosen?.of ?? ""}`, "webm"));
  };
  const picture = async () => {
    const element = canvas();
    const made = element && (await pictureOf(element, () => amount.current.draw()));
    if (made) saveAs(made, fileName(floor?.name ?? "", `deflected under ${chosen?.of ?? ""}`, "png"));
    else say("The browser made no picture; try again.", true);
  };

  return (
    <Dialog.Root open onOpenChange={(o) => !o && props.close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="dialog space" aria-describedby={undefined}>
          <header>
            <Dialog.Title>{floor?.name}, deflected</Dialog.Title>
            <select aria-label="Case or combination" value={chosen?.of ?? ""} onChange={(e) => setOf(e.target.value)}>
              {catalogue?.selections.map((s) => (
                <option key={s.of}>{s.of}</option>
              ))}
            </select>
            <span className="acts">
              <button type="button" className="small" aria-pressed={moving} onClick={() => setMoving(!moving)}>
                {moving ? "Stop" : "Animate"}
              </button>
              <button type="button" className="small" disabled={!field || filming} onClick={() => void film()}>
                {filming ? "Filming …" : "Film"}
              </button>
              <button type="button" className="small" disabled={!field} onClick={() => void picture()}>
                Picture
              </button>
            </span>
            <label>
              ×{" "}
              <input
                type="number"
                aria-label="Deflections times"
                min={1}
                step={fitting / 10}
                value={factor}
                onChange={(e) => setExaggeration(Number(e.target.value) > 0 ? Number(e.target.value) : null)}
              />
            </label>
            <label>
              <input type="checkbox" checked={withMesh} onChange={() => setWithMesh(!withMesh)} /> Mesh
            </label>
            <Dialog.Close className="small">Close</Dialog.Close>
          </header>
          <div
            className="space-canvas"
            data-testid="moving"
            data-moving={moving}
            ref={(e) => {
              holder.current = e;
              if (e && !ready) setReady(true);
            }}
          />
          <footer className="quiet">
            {field && chosen
              ? `${chosenText(chosen)}: ${resultOf(field.least, "mm", system)} to ${resultOf(field.greatest, "mm", system)}, down positive, drawn ${factor.toLocaleString("en")} times.`
              : "Reading the deflections."}
            {stale && <span> Of an older revision.</span>}
            <span>Grey outlines are the floor as it is cast.</span>
          </footer>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function niceFactor(rough: number): number {
  const power = 10 ** Math.floor(Math.log10(Math.max(rough, 1)));
  const unit = rough / power;
  return power * (unit >= 5 ? 5 : unit >= 2 ? 2 : 1);
}
