// Orbit camera controlled on the page, where pointer events arrive.
import { type RefObject, useEffect, useRef, useState } from "react";
import { PerspectiveCamera } from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import type { Standing } from "./choices";
import type { View } from "./drawing/messages";
import type { Eye } from "./shared-camera";

type Place = View["eye"];

function firstPlace(shape: Standing): Place {
  if (shape === "model") return [2.5, 1.5, 4.4];
  if (shape === "drape") return [1.1, 0.3, 4.7];
  return shape === "cube" || shape === "cylinder" ? [2.2, 1.7, 3.8] : [0, 0, 4.6];
}

function placed(place: Place): PerspectiveCamera {
  const camera = new PerspectiveCamera(30, 1, 0.1, 50);
  camera.position.set(...place);
  camera.lookAt(0, 0, 0);
  return camera;
}

/** Camera position: rotated and zoomed over `box`, together with the other views of `eye`. */
export function useCamera(box: RefObject<HTMLElement | null>, shape: Standing, eye?: Eye): Place {
  const [camera] = useState(() => placed(firstPlace(shape)));
  const [place, setPlace] = useState<Place>(() => firstPlace(shape));
  useEffect(() => {
    if (!box.current) return;
    const controls = new OrbitControls(camera, box.current);
    controls.enablePan = false;
    controls.minDistance = 2;
    controls.maxDistance = 9;
    const seen = () => setPlace(camera.position.toArray());
    const followed = eye?.join((position) => {
      camera.position.copy(position);
      camera.lookAt(0, 0, 0);
      seen();
    });
    controls.addEventListener("change", () => {
      followed?.moved(camera.position);
      seen();
    });
    return () => {
      followed?.leave();
      controls.dispose();
    };
  }, [camera, box, eye]);
  const lookedAt = useRef(shape);
  useEffect(() => {
    if (lookedAt.current === shape) return;
    lookedAt.current = shape;
    eye?.forget();
    camera.position.set(...firstPlace(shape));
    camera.lookAt(0, 0, 0);
    setPlace(firstPlace(shape));
  }, [camera, shape, eye]);
  return place;
}
