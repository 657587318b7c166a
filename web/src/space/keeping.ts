/** A name that files may have everywhere. */
export const fileName = (floor: string, what: string, ending: string) =>
  `${floor.replace(/[^\p{L}\p{N}]+/gu, " ").trim() || "floor"}, ${what}.${ending}`;

/** Some seconds of what a canvas shows as a WebM film; a sentence where the browser makes none. */
export function filmOf(canvas: HTMLCanvasElement, seconds: number): Promise<Blob | string> {
  const type = ["video/webm;codecs=vp9", "video/webm;codecs=vp8", "video/webm"].find(
    (t) => typeof MediaRecorder !== "undefined" && MediaRecorder.isTypeSupported(t),
  );
  if (!type) return Promise.resolve("This browser makes no WebM films; keep a picture instead.");
  return new Promise((resolve) => {
    const recorder = new MediaRecorder(canvas.captureStream(30), { mimeType: type, videoBitsPerSecond: 6_000_000 });
    const parts: Blob[] = [];
    recorder.ondataavailable = (e) => parts.push(e.data);
    recorder.onerror = () => resolve("The film broke off; try again.");
    recorder.onstop = () => resolve(new Blob(parts, { type: "video/webm" }));
    recorder.start();
    setTimeout(() => recorder.stop(), 1000 * seconds);
  });
}

/** What a canvas shows right after it is drawn, as a PNG. */
export function pictureOf(canvas: HTMLCanvasElement, draw: () => void): Promise<Blob | null> {
  draw();
  return new Promise((resolve) => canvas.toBlob(resolve, "image/png"));
}
