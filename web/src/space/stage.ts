import {
  Box3,
  DirectionalLight,
  HemisphereLight,
  type Object3D,
  PerspectiveCamera,
  Scene,
  Vector3,
  WebGLRenderer,
} from "three";
import { OrbitControls } from "three/addons/controls/OrbitControls.js";
import { distanceFor } from "./framing";

export type Stage = {
  renderer: WebGLRenderer;
  scene: Scene;
  camera: PerspectiveCamera;
  render: () => void;
  end: () => void;
};

const FOV = 35;
/** From where a floor is seen first. */
const VIEW = new Vector3(-0.55, -0.95, 0.75);

/**
 * A scene in an element with light and a camera that looks at all of the bodies; orbit by dragging or arrow keys. `around` makes what
 * stands about the box of the bodies.
 */
export function stageIn(
  element: HTMLElement,
  label: string,
  bodies: Object3D[],
  around?: (box: Box3) => Object3D,
): Stage {
  const renderer = new WebGLRenderer({ antialias: true, alpha: true });
  renderer.setPixelRatio(window.devicePixelRatio);
  element.append(renderer.domElement);
  renderer.domElement.tabIndex = 0;
  renderer.domElement.setAttribute("aria-label", label);
  const scene = new Scene();
  // Light of the sky from above and a little from below, so that soffits are not black, and a sun from the side that is seen first.
  scene.add(new HemisphereLight("#ffffff", "#b9ab95", 1.7));
  const sun = new DirectionalLight("#fff4e2", 2.2);
  sun.position.set(-0.9, -0.5, 1.2);
  scene.add(sun, ...bodies);
  const box = new Box3();
  for (const body of bodies) box.expandByObject(body);
  const more = around?.(box);
  if (more) {
    scene.add(more);
    box.expandByObject(more);
  }
  const centre = box.getCenter(new Vector3());
  const size = box.getSize(new Vector3()).length() || 10;
  const camera = new PerspectiveCamera(FOV, 1, size / 200, size * 10);
  camera.up.set(0, 0, 1);
  const controls = new OrbitControls(camera, renderer.domElement);
  controls.target.copy(centre);
  controls.listenToKeyEvents(renderer.domElement);
  let moved = false;
  controls.addEventListener("start", () => {
    moved = true;
  });
  /** All of the floor in the picture, as long as nobody has turned it. */
  const frame = () => {
    if (moved) return;
    const far = distanceFor(box.min.toArray(), box.max.toArray(), VIEW.toArray(), FOV, camera.aspect);
    camera.position.copy(centre).addScaledVector(VIEW.clone().normalize(), far);
    controls.update();
  };
  const render = () => renderer.render(scene, camera);
  controls.addEventListener("change", render);
  const watch = new ResizeObserver(() => {
    const { clientWidth: w, clientHeight: h } = element;
    renderer.setSize(w, h);
    camera.aspect = w / Math.max(1, h);
    camera.updateProjectionMatrix();
    frame();
    render();
  });
  watch.observe(element);
  return {
    renderer,
    scene,
    camera,
    render,
    end: () => {
      watch.disconnect();
      controls.dispose();
      renderer.dispose();
      renderer.domElement.remove();
    },
  };
}
