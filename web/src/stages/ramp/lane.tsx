import type { Lane } from "../../api/types";
import { CurveBox, CurveLine, OutsideMarks, Samples } from "./samples";
import type { Drawn } from "./store";

const TOP_CHROMA = 0.33;

interface Props {
  lane: Lane;
  drawn: Drawn;
  chosen: boolean;
  width: number;
  rings: boolean;
  onChoose: () => void;
  onPress: (share: number) => void;
}

/** The marks at both edges of every band that is wide enough to be seen as a ring. */
function Rings({ bands }: { bands: readonly number[] }) {
  return bands.map((at) => (
    <span
      key={at}
      className="pointer-events-none absolute top-0 h-2 w-px bg-ink shadow-[1px_0_0_var(--ground)]"
      style={{ left: `${at * 100}%` }}
    />
  ));
}

/** One way from the first stop to the last: its name, the ramp itself, and how its lightness and chroma run. */
export function LaneRow({ lane, drawn, chosen, width, rings, onChoose, onPress }: Props) {
  const rgba = drawn === "stepped" && lane.steps ? lane.steps : lane.rgba;
  const widest = Math.max(1, Math.round(lane.widest * width));
  return (
    <label className="group grid min-h-0 cursor-pointer grid-cols-[150px_1fr_184px] items-stretch gap-x-4">
      <input
        type="radio"
        name="lane"
        className="peer sr-only"
        checked={chosen}
        onChange={onChoose}
        aria-label={`${lane.label}: ${lane.use}; dips ${lane.dip.toFixed(2)}, largest step ${lane.even.toFixed(2)} of the mean`}
      />
      <span className="min-w-0 self-center">
        <span className="flex items-center gap-2 text-body font-semibold">
          <span
            aria-hidden="true"
            className={`size-3 shrink-0 rounded-full border-2 border-ink ${chosen ? "bg-ink shadow-[inset_0_0_0_1.5px_var(--ground)]" : ""}`}
          />
          <span className="truncate">{lane.label}</span>
        </span>
        <span className="mt-0.5 block truncate pl-5 text-small text-quiet" title={lane.use}>
          {lane.use}
        </span>
      </span>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: the stop bar above has the same for the keyboard */}
      <span
        className={`relative block min-h-0 ${chosen ? "outline-2 outline-offset-2 outline-ink" : ""} peer-focus-visible:outline-2 peer-focus-visible:outline-offset-4`}
        title="Double-click to add a stop here, with the color that is here"
        onDoubleClick={(event) => {
          const rect = event.currentTarget.getBoundingClientRect();
          onPress((event.clientX - rect.left) / rect.width);
        }}
      >
        <span className="absolute inset-0">
          <Samples rgba={rgba} />
        </span>
        <OutsideMarks spans={lane.outside_spans} />
        {rings && <Rings bands={lane.bands} />}
      </span>
      <span className="flex min-w-0 flex-col justify-between gap-0.5">
        <CurveBox className="h-5 min-h-0 w-full grow">
          <CurveLine values={lane.chroma} top={TOP_CHROMA} quiet />
          <CurveLine values={lane.lightness} top={1} chord />
        </CurveBox>
        <span className="flex justify-between text-caption whitespace-nowrap text-quiet">
          <span title="How far the lightness falls below the straight line between the ends">
            dips <b className="font-semibold text-ink">{lane.dip.toFixed(2)}</b>
          </span>
          <span title={`Largest step over mean step; ${lane.even_rounded.toFixed(2)} once rounded to 8 bits`}>
            even <b className="font-semibold text-ink">{lane.even.toFixed(2)}</b>
          </span>
          <span
            title={`${lane.colors.toLocaleString("en")} different colors in 8 bits; the widest band is ${widest} px wide`}
          >
            band <b className="font-semibold text-ink">{widest}</b> px
          </span>
        </span>
      </span>
    </label>
  );
}
