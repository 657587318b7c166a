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

/** The floor as it is cast: orbit by dragging, pick by clicking. */
export function SpaceView(props: { close: () => void }) {
  const { document, chosen, choose, floor } = usePicked("document", "chosen", "choose", "floor");
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
      const hit = ray.intersectObjects(meshes.current)[0];
      choose(hit ? [hit.object.userData as Ref] : []);
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
  }, [document, choose, ready]);

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
                ? nameOf(chosen)
                : "Drag to turn, right-drag to shift, wheel to come nearer, click to pick"}
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
