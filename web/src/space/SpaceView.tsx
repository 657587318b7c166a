import * as Dialog from "@radix-ui/react-dialog";
import { useEffect, useRef, useState } from "react";
import {
  type BufferGeometry,
  Color,
  EdgesGeometry,
  LineBasicMaterial,
  LineSegments,
  Mesh,
  MeshLambertMaterial,
  Raycaster,
  Vector2,
} from "three";
import { nameOf } from "../kinds";
import type { Ref } from "../model/floor";
import { usePicked } from "../session";
import { measured, type System, useUnits } from "../units/quantities";
import { levelsOf } from "./heights";
import { levelLines } from "./levels";
import { geometryOf, solidsOf } from "./solids";
import { stageIn } from "./stage";

const COLOURS: Record<string, string> = {
  slabs: "#e4d9c6",
  thickenings: "#cdb894",
  beams: "#c4a678",
  columns: "#8d97a0",
  walls: "#a7aeb4",
};
const CHOSEN = "#b4532a";
type Spot = [number, number, number];

/** A place in space, and how far it is from another one. */
function spotText(at: Spot, from: Spot | null, system: System): string {
  const [x, y, z] = at.map((v) => measured(v, "length", system));
  const place = `x ${x}, y ${y}, level ${z}`;
  if (!from) return place;
  const far = Math.hypot(at[0] - from[0], at[1] - from[1], at[2] - from[2]);
  return `${place} · ${measured(far, "length", system)} from the last click, ${measured(at[2] - from[2], "length", system)} in height`;
}

/** The floor as it is cast: orbit by dragging, pick by clicking. */
export function SpaceView(props: { close: () => void }) {
  const { document, chosen, choose, floor, project } = usePicked("document", "chosen", "choose", "floor", "project");
  const system = useUnits((u) => u.system);
  /** Where the last clicks met the concrete: the one that is told, and the one that it is measured from. */
  const [spots, setSpots] = useState<{ at: Spot; from: Spot | null } | null>(null);
  const holder = useRef<HTMLDivElement>(null);
  const [ready, setReady] = useState(false);
  const meshes = useRef<Mesh<BufferGeometry, MeshLambertMaterial>[]>([]);
  const draw = useRef<() => void>(() => undefined);

  useEffect(() => {
    const element = holder.current;
    if (!element || !document || !ready) return;
    const lines = new LineBasicMaterial({ color: "#1e2a35", transparent: true, opacity: 0.45 });
    meshes.current = solidsOf(document).map((s) => {
      const material = new MeshLambertMaterial({
        color: COLOURS[s.ref.kind] ?? "#cccccc",
        transparent: s.faint,
        opacity: s.faint ? 0.35 : 1,
      });
      const mesh = new Mesh(geometryOf(s), material);
      mesh.userData = s.ref;
      mesh.add(new LineSegments(new EdgesGeometry(mesh.geometry, 25), lines));
      return mesh;
    });
    const stage = stageIn(
      element,
      "The floor in space; drag to turn, wheel to come nearer, arrow keys to shift",
      meshes.current,
      (box) =>
        levelLines(
          levelsOf(project?.storeys ?? [], floor?.level ?? null, floor?.name ?? "", box.min.z, box.max.z),
          box.min,
          box.max,
          (l) => `${l.name}  ${l.z > 0 ? "+" : ""}${measured(l.z, "length", system)}`,
        ),
    );
    const { renderer, camera } = stage;
    draw.current = stage.render;
    let down = [0, 0];
    const press = (e: PointerEvent) => {
      down = [e.clientX, e.clientY];
    };
    const click = (e: PointerEvent) => {
      if (Math.hypot(e.clientX - (down[0] ?? 0), e.clientY - (down[1] ?? 0)) > 4) return;
      const r = renderer.domElement.getBoundingClientRect();
      const ray = new Raycaster();
      ray.setFromCamera(
        new Vector2(((e.clientX - r.left) / r.width) * 2 - 1, 1 - ((e.clientY - r.top) / r.height) * 2),
        camera,
      );
      // The bodies alone: their edges, drawn as lines of their own, are nobody's.
      const hit = ray.intersectObjects(meshes.current, false)[0];
      choose(hit ? [hit.object.userData as Ref] : []);
      const at = hit ? (hit.point.toArray() as Spot) : null;
      setSpots((s) => at && { at, from: e.shiftKey ? (s?.at ?? null) : null });
    };
    renderer.domElement.addEventListener("pointerdown", press);
    renderer.domElement.addEventListener("pointerup", click);
    return () => {
      for (const m of meshes.current) {
        m.geometry.dispose();
        m.material.dispose();
      }
      stage.end();
    };
  }, [document, choose, ready, project, floor?.level, floor?.name, system]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a new document makes new meshes, which take their colours here
  useEffect(() => {
    const picked = new Set(chosen.map((r) => `${r.kind} ${r.id}`));
    for (const m of meshes.current) {
      const ref = m.userData as Ref;
      m.material.color = new Color(picked.has(`${ref.kind} ${ref.id}`) ? CHOSEN : (COLOURS[ref.kind] ?? "#cccccc"));
    }
    draw.current();
  }, [chosen, document, ready]);

  return (
    <Dialog.Root open onOpenChange={(o) => !o && props.close()}>
      <Dialog.Portal>
        <Dialog.Overlay className="veil" />
        <Dialog.Content className="dialog space" aria-describedby={undefined}>
          <header>
            <Dialog.Title>{floor?.name} in space</Dialog.Title>
            <span className="quiet">
              {chosen.length
                ? [nameOf(chosen), ...(spots ? [spotText(spots.at, spots.from, system)] : [])].join(" · ")
                : "Drag to turn, right-drag to shift, wheel to come nearer, click to pick, Shift click to measure"}
            </span>
            <Dialog.Close className="small">Close</Dialog.Close>
          </header>
          <div
            className="space-canvas"
            data-testid="space"
            ref={(e) => {
              holder.current = e;
              if (e && !ready) setReady(true);
            }}
          />
          <footer className="quiet">
            {Object.entries(COLOURS).map(([kind, colour]) => (
              <span key={kind}>
                <i style={{ background: colour }} /> {kind}
              </span>
            ))}
            <span>What stands above the floor is see-through.</span>
          </footer>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
