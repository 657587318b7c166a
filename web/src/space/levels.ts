import {
  BufferGeometry,
  CanvasTexture,
  Group,
  LineBasicMaterial,
  LineLoop,
  Sprite,
  SpriteMaterial,
  SRGBColorSpace,
  Vector3,
} from "three";
import type { Level } from "./heights";

/** Levels that lie closer together (m) than their captions are tall. */
const CLOSE = 2;

/** Level lines about a box on plan, each with its name and height at a corner. */
export function levelLines(levels: Level[], least: Vector3, most: Vector3, text: (level: Level) => string): Group {
  const group = new Group();
  const off = 0.04 * Math.hypot(most.x - least.x, most.y - least.y) + 0.5;
  const material = new LineBasicMaterial({ color: "#b4532a", transparent: true, opacity: 0.55 });
  for (const [i, level] of levels.entries()) {
    const corners = [
      [least.x - off, least.y - off],
      [most.x + off, least.y - off],
      [most.x + off, most.y + off],
      [least.x - off, most.y + off],
    ].map(([x = 0, y = 0]) => new Vector3(x, y, level.z));
    group.add(new LineLoop(new BufferGeometry().setFromPoints(corners), material));
    // Outside the building; where two levels lie close together their captions stand at two corners.
    const close = i > 0 && level.z - (levels[i - 1] as Level).z < CLOSE;
    const sprite = captionOf(text(level), close ? "left" : "right");
    sprite.position.copy(corners[close ? 1 : 0] as Vector3);
    group.add(sprite);
  }
  return group;
}

/** A caption that keeps its size on the screen, its text set from the left or from the right of its place. */
function captionOf(text: string, set: "left" | "right"): Sprite {
  const canvas = document.createElement("canvas");
  const [wide, tall] = [512, 64];
  canvas.width = wide;
  canvas.height = tall;
  const pen = canvas.getContext("2d");
  if (pen) {
    pen.font = "34px 'IBM Plex Sans', sans-serif";
    pen.fillStyle = "#8a3d1d";
    pen.textBaseline = "middle";
    pen.textAlign = set;
    pen.fillText(text, set === "left" ? 8 : wide - 8, tall / 2);
  }
  const map = new CanvasTexture(canvas);
  map.colorSpace = SRGBColorSpace;
  const sprite = new Sprite(new SpriteMaterial({ map, sizeAttenuation: false, depthTest: false }));
  const height = 0.028;
  sprite.scale.set((height * wide) / tall, height, 1);
  sprite.center.set(set === "left" ? 0 : 1, 0);
  return sprite;
}
