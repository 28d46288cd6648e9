import { OrbitControls, OrthographicCamera } from "@react-three/drei";
import { Canvas, invalidate, useThree } from "@react-three/fiber";
import { type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { useStable } from "../app/stable";
import { tone } from "../app/tokens";
import { Compass } from "./Compass";

declare global {
  interface Window {
    __view?: { project: (x: number, y: number, z: number) => { x: number; y: number } };
  }
}

/** Clockwise from the drawing's north, whole degrees. */
const bearing = (x: number, y: number) => Math.round((Math.atan2(x, y) * 180) / Math.PI);

type Orbit = { target: THREE.Vector3; update: () => void; object: THREE.Camera };

function Ground({ middle, size, level }: { middle: THREE.Vector3; size: number; level: number }) {
  const geometry = useMemo(() => {
    const at: number[] = [];
    const step = 10;
    const half = Math.ceil(size / step) * step;
    const cx = Math.round(middle.x / step) * step;
    const cy = Math.round(middle.y / step) * step;
    for (let k = -half; k <= half; k += step)
      at.push(cx - half, cy + k, level, cx + half, cy + k, level, cx + k, cy - half, level, cx + k, cy + half, level);
    return new THREE.BufferGeometry().setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
  }, [middle, size, level]);
  return (
    <lineSegments geometry={geometry}>
      <lineBasicMaterial color="#E6DFD0" />
    </lineSegments>
  );
}

/** Sets the zoom so that the building with a rim around it fills the canvas, until somebody moves the view. */
function Fit({ frame, name, moved }: { frame: THREE.Box3; name: string; moved: React.RefObject<boolean> }) {
  const { camera, size, invalidate } = useThree();
  const done = useRef("");
  useEffect(() => {
    const now = `${name} ${Math.round(size.width)} ${Math.round(size.height)}`;
    if (done.current === now || size.width < 10 || (done.current.startsWith(name) && moved.current)) return;
    done.current = now;
    camera.updateMatrixWorld();
    const middle = frame.getCenter(new THREE.Vector3()).applyMatrix4(camera.matrixWorldInverse);
    let [wide, tall] = [1, 1];
    for (const x of [frame.min.x, frame.max.x])
      for (const y of [frame.min.y, frame.max.y])
        for (const z of [frame.min.z, frame.max.z]) {
          const p = new THREE.Vector3(x, y, z).applyMatrix4(camera.matrixWorldInverse);
          wide = Math.max(wide, Math.abs(p.x - middle.x));
          tall = Math.max(tall, Math.abs(p.y - middle.y));
        }
    camera.zoom = Math.min(size.width / (wide * 2.7), size.height / (tall * 2.5));
    camera.updateProjectionMatrix();
    invalidate();
  }, [camera, size, frame, name, moved, invalidate]);
  return null;
}

/** Where a point in space lies on the canvas, px; how deep in the view (-1 nearest, 1 furthest); whether a cut took it away. */
export type Projector = (x: number, y: number, z: number) => { x: number; y: number; depth: number; cut: boolean };

export function useProjector(): Projector {
  const { camera, size, gl } = useThree();
  return useCallback(
    (x, y, z) => {
      camera.updateMatrixWorld(); // what moved it since the last frame counts
      const p = new THREE.Vector3(x, y, z);
      const cut = gl.clippingPlanes.some((plane: THREE.Plane) => plane.distanceToPoint(p) < 0);
      p.project(camera);
      return { x: ((p.x + 1) / 2) * size.width, y: ((1 - p.y) / 2) * size.height, depth: p.z, cut };
    },
    [camera, size, gl],
  );
}

/** Tells the page, and whoever asks outside the canvas, where points lie, once the view looks through its own camera. */
function Hook({ projector }: { projector?: React.RefObject<Projector | null> }) {
  const project = useProjector();
  const own = useThree((s) => s.camera instanceof THREE.OrthographicCamera);
  useEffect(() => {
    if (projector) projector.current = project;
    if (own) window.__view = { project };
    return () => {
      delete window.__view;
    };
  }, [project, projector, own]);
  return null;
}

/** Where a cut lies: along which axis, and how far through the form (0 to 1). */
export interface Cut {
  axis: "x" | "y" | "z";
  at: number;
}

function Cutting({ cut, frame }: { cut: Cut | null; frame: THREE.Box3 }) {
  const { gl, invalidate } = useThree();
  useEffect(() => {
    if (cut) {
      const from = new THREE.Vector3(cut.axis === "x" ? -1 : 0, cut.axis === "y" ? 1 : 0, cut.axis === "z" ? -1 : 0);
      const low = frame.min[cut.axis] - 0.5;
      const high = frame.max[cut.axis] + 0.5;
      const place = low + (high - low) * cut.at;
      gl.clippingPlanes = [new THREE.Plane(from, cut.axis === "y" ? -place : place)];
    } else gl.clippingPlanes = [];
    invalidate();
    return () => {
      gl.clippingPlanes = [];
    };
  }, [cut, frame, gl, invalidate]);
  return null;
}

const corners: [string, string, number, number, number][] = [
  ["SE", "From the south-east", 0.55, -0.75, 0.5],
  ["SW", "From the south-west", -0.55, -0.75, 0.5],
  ["NW", "From the north-west", -0.55, 0.75, 0.5],
  ["NE", "From the north-east", 0.55, 0.75, 0.5],
  ["S", "From the south", 0, -1, 0.001],
  ["E", "From the east", 1, 0, 0.001],
  ["N", "From the north", 0, 1, 0.001],
  ["W", "From the west", -1, 0, 0.001],
  ["top", "From above", 0, -0.001, 1],
];

/** A view into space: drag turns, two fingers or the buttons zoom, Shift-drag moves; a double click sets what it turns about. */
export function View3D({
  frame,
  name,
  ground,
  north,
  closer,
  projector,
  onMissed,
  children,
  over,
}: {
  frame: THREE.Box3;
  /** What is framed; the view is framed anew when this changes, until somebody moves it. */
  name: string;
  ground: number;
  north: number;
  /** What "fit" frames when something is chosen. */
  closer?: THREE.Box3 | null;
  /** Filled with where points lie on the canvas. */
  projector?: React.RefObject<Projector | null>;
  onMissed: () => void;
  children: ReactNode;
  over?: ReactNode;
}) {
  const controls = useRef<Orbit | null>(null);
  const moved = useRef(false);
  const [heading, setHeading] = useState(-36);
  const [cut, setCut] = useState<Cut | null>(null);
  const middle = useMemo(() => frame.getCenter(new THREE.Vector3()), [frame]);
  const reach = frame.getSize(new THREE.Vector3()).length();

  const turnAbout = useStable((e: { stopPropagation: () => void; point: THREE.Vector3 }) => {
    e.stopPropagation();
    controls.current?.target.copy(e.point);
    controls.current?.update();
  });
  const take = useStable((c: Orbit | null) => {
    controls.current = c;
  });
  const begin = useStable(() => {
    moved.current = true;
  });
  const turned = useStable(() => {
    const c = controls.current;
    if (c) setHeading(bearing(c.target.x - c.object.position.x, c.target.y - c.object.position.y));
  });
  function zoom(by: number) {
    moved.current = true;
    const camera = controls.current?.object as THREE.OrthographicCamera | undefined;
    if (!camera) return;
    camera.zoom *= by;
    camera.updateProjectionMatrix();
    controls.current?.update();
    invalidate(); // a zoom from outside moves nothing that the controls would tell of
  }
  function look(x: number, y: number, z: number) {
    const camera = controls.current?.object;
    if (!camera || !controls.current) return;
    const about = controls.current.target;
    camera.position.set(about.x + x * reach * 3, about.y + y * reach * 3, about.z + z * reach * 3);
    controls.current.update();
  }
  function fit() {
    const box = closer && !closer.isEmpty() ? closer : frame;
    const camera = controls.current?.object as THREE.OrthographicCamera | undefined;
    if (!camera || !controls.current) return;
    const about = box.getCenter(new THREE.Vector3());
    camera.position.add(about.clone().sub(controls.current.target));
    controls.current.target.copy(about);
    const size = box.getSize(new THREE.Vector3()).length();
    camera.zoom = Math.min(camera.right - camera.left, camera.top - camera.bottom) / (size * 1.25 + 1);
    camera.updateProjectionMatrix();
    controls.current.update();
    invalidate();
  }
  useEffect(() => {
    function press(e: KeyboardEvent) {
      if (e.target instanceof HTMLElement && e.target.matches("input, textarea")) return;
      if (e.key === "f" && !e.ctrlKey && !e.metaKey) fit();
    }
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  });

  return (
    <>
      <Canvas
        frameloop="demand"
        flat
        gl={{ antialias: !navigator.webdriver, preserveDrawingBuffer: true, stencil: true }}
        dpr={[1, 2]}
        onPointerMissed={onMissed}
        onCreated={({ gl }) => gl.setClearColor(tone.paper)}
      >
        <OrthographicCamera
          makeDefault
          up={[0, 0, 1]}
          position={[middle.x + reach * 1.7, middle.y - reach * 2.3, middle.z + reach * 1.6]}
          near={-1000}
          far={5000}
          zoom={9 * (72 / (reach + 14))}
        />
        <OrbitControls
          ref={take}
          target={middle}
          enableDamping={false}
          onStart={begin}
          onChange={turned}
          maxPolarAngle={Math.PI / 2 - 0.02}
          makeDefault
        />
        <Fit frame={frame} name={name} moved={moved} />
        <Hook projector={projector} />
        <Cutting cut={cut} frame={frame} />
        <Ground middle={middle} size={reach * 1.4} level={ground - 0.02} />
        <group onDoubleClick={turnAbout}>{children}</group>
      </Canvas>
      <Compass drawing={-heading} north={north} />
      {over}
      {cut && (
        <div className="overlay row" style={{ right: 14, bottom: 132, gap: 8 }} role="group" aria-label="Cut">
          <span className="switch">
            {(["z", "y", "x"] as const).map((axis) => (
              <button
                key={axis}
                type="button"
                aria-pressed={cut.axis === axis}
                onClick={() => setCut({ ...cut, axis })}
              >
                {{ x: "from the east", y: "from the south", z: "from above" }[axis]}
              </button>
            ))}
          </span>
          <input
            type="range"
            aria-label="Where the cut lies"
            min={0}
            max={1}
            step={0.01}
            value={cut.at}
            onChange={(e) => setCut({ ...cut, at: Number(e.target.value) })}
          />
        </div>
      )}
      <div className="switch view-tools" role="group" aria-label="View">
        <button type="button" aria-label="Nearer" onClick={() => zoom(1.25)}>
          +
        </button>
        <button type="button" aria-label="Further" onClick={() => zoom(0.8)}>
          −
        </button>
        <button type="button" title="Frame what is chosen, or everything (F)" onClick={fit}>
          fit
        </button>
        <button
          type="button"
          aria-pressed={cut !== null}
          title="Cut the form open"
          onClick={() => setCut(cut ? null : { axis: "z", at: 0.6 })}
        >
          cut
        </button>
        {corners.map(([label, title, x, y, z]) => (
          <button key={label} type="button" title={title} onClick={() => look(x, y, z)}>
            {label}
          </button>
        ))}
      </div>
    </>
  );
}
