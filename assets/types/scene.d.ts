// The words that scripts use in their comments: what the API's description and the bench's own modules name.

import type { components } from "./description";
import type { Bench as SharedBench } from "../../jointed_crane/web/bench/static/state/shared_bench.js";
import type { View as StageView } from "../../jointed_crane/web/bench/static/stage/view.js";

import type { Axis as TimeAxis } from "../../jointed_crane/web/bench/static/time/axis.js";
import type { Previewer as SharedPreviewer } from "../../jointed_crane/web/bench/static/state/previewing.js";

// Lists of a fixed length are plain lists here: scripts cut and map them, and the server counts.
type Listed<T> = T extends readonly [unknown, ...unknown[]] ? T[number][] : T extends object ? { [Name in keyof T]: Listed<T[Name]> } : T;
type Schemas = { [Name in keyof components["schemas"]]: Listed<components["schemas"][Name]> };

declare global {
  type Bench = SharedBench;
  type View = StageView;
  type Axis = TimeAxis;
  type Previewer = SharedPreviewer;
  type Edit = Schemas["Edit"];
  type Part = Schemas["Part"];
  /** Keep one edit, by its name and the rest of its fields. */
  type Keep = <Name extends Edit["edit"]>(
    edit: Name,
    fields?: Omit<Extract<Edit, { edit: Name }>, "edit">,
  ) => Promise<ChangeAnswer | null>;
  type PartBeside = Schemas["PartBeside"];
  type Channel = Schemas["Channel"];
  type Shape = Exclude<Drawing["shape"], null>;
  type Drawing = Schemas["Drawing"];
  type Constraint = Schemas["Part"]["constraints"][number];
  type Key = Schemas["Key"];
  type Placed = Schemas["Placed"];
  type SeenView = Schemas["SeenView"];
  type Rings = Schemas["Rings"];
  /** How one pane looks at the scene. */
  type Look = Schemas["AskedView"];
  /** A pane, with what is drawn in it. */
  type Pane = { view: StageView; drag: any; drawing: any; flat: any; deep: any };
  type Pose = Schemas["Posed"];
  type Stage = Schemas["Stage"];
  /** What a preview shows over what is kept. */
  type Shown = { parts: Map<string, Part>; pose: Schemas["Moved"]; snap: string | null; curves: Schemas["Curve"][]; looksKey: string } & Partial<
    Pick<Stage, "marks" | "markers" | "cuts"> & Pick<Schemas["PreviewAnswer"], "seen" | "rings">
  >;
  /** What the areas of the bench hand each other; each takes what it names. */
  type Shared = { bench?: Bench; axis?: Axis; keep?: Keep; [more: string]: any };
  type PickedKey = { part: string; channel: string; frame: number };
  /** A foothold, or with a constraint the frame from which that changes hands. */
  type Stand = { part: string; frame: number; constraint?: string };
  type Spotted = { id: string; name: string; point?: number[]; place?: number[] };
  /** A channel of a part, as choices and links name it. */
  type End = { part: string; channel: string };
  type Spot = { part: string; eyelet: string; mark?: undefined } | { mark: string; part?: undefined; eyelet?: undefined };
  type SceneAnswer = Schemas["SceneAnswer"];
  /** In what is kept, parts are said whole, but for drawings that are known. */
  type ChangeAnswer = Omit<Schemas["ChangeAnswer"], "changed"> & { changed: Part[] };
  type PreviewAnswer = Schemas["PreviewAnswer"] & { looksKey: string };

  // What a selector finds is what the page's template says; here nothing is known of it.
  interface ParentNode {
    querySelector(selectors: string): any;
    querySelectorAll(selectors: string): NodeListOf<any>;
  }
  // What is pressed or focused is always an element of the page; attributes are written as words, whatever they are given.
  interface Element {
    setAttribute(name: string, value: string | number | boolean): void;
    readonly dataset: any;
  }
  interface EventTarget {
    closest(selectors: string): any;
    readonly dataset: any;
  }
}
