/** A number or a name that faces the reader and keeps its size on the sheet. */
import { useEffect, useMemo } from "react";
import * as THREE from "three";

const HIGH = 40;

function drawn(text: string, ink: string, paper: string) {
  const canvas = document.createElement("canvas");
  const pen = canvas.getContext("2d");
  if (!pen) return { texture: new THREE.CanvasTexture(canvas), wide: 1 };
  const font = `600 ${String(HIGH * 0.72)}px "IBM Plex Mono", monospace`;
  pen.font = font;
  canvas.width = Math.ceil(pen.measureText(text).width + 16);
  canvas.height = HIGH;
  pen.font = font;
  pen.fillStyle = paper;
  pen.fillRect(0, 0, canvas.width, canvas.height);
  pen.fillStyle = ink;
  pen.textBaseline = "middle";
  pen.fillText(text, 8, HIGH / 2 + 1);
  return { texture: new THREE.CanvasTexture(canvas), wide: canvas.width / HIGH };
}

interface Props {
  text: string;
  at: [number, number, number];
  ink: string;
  paper: string;
}

export function Label({ text, at, ink, paper }: Props) {
  const { texture, wide } = useMemo(() => drawn(text, ink, paper), [text, ink, paper]);
  useEffect(() => () => texture.dispose(), [texture]);
  const size = 0.019;
  return (
    <sprite position={at} scale={[size * wide, size, 1]} renderOrder={2}>
      <spriteMaterial map={texture} sizeAttenuation={false} transparent />
    </sprite>
  );
}
