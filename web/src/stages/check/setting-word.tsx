import { useQuery } from "@tanstack/react-query";
import { ask } from "../../api/queries";
import type { CheckSetting } from "../../api/types";
import type { Value } from "../../bench/checks";
import { useShown } from "../../bench/context";
import { ShelfPalettes } from "../../bench/other-palette";
import { Patch } from "../../lens/patch";
import { useScreen } from "../../shell/store";
import { TextButton } from "../../ui/button";
import { ChoiceWord, NumberWord, PanelWord, TextWord } from "../../ui/sentence";

interface Props {
  setting: CheckSetting;
  value: Value;
  onChange: (value: Value) => void;
}

/** The name of a palette of the shelf by its id. */
function useNameOnShelf(id: string) {
  const cards = useQuery(ask.named("palettes", id === "" ? [] : [id]));
  return cards.data?.[0]?.name;
}

function PaletteWord({ setting, value, onChange }: Props) {
  const name = useNameOnShelf(String(value));
  const text = value === "" ? "no palette" : (name ?? "a palette that is gone");
  return (
    <PanelWord label={setting.label} text={text}>
      <ShelfPalettes current={String(value)} onChoose={(chosen) => onChange(chosen.id)} />
      {value !== "" && <TextButton onClick={() => onChange("")}>No palette</TextButton>}
    </PanelWord>
  );
}

function SwatchWord({ setting, value, onChange }: Props) {
  const shown = useShown();
  const current = shown.find((swatch) => swatch.id === value);
  return (
    <PanelWord label={setting.label} text={current?.name ?? "any swatch"}>
      <ul className="m-0 grid max-h-72 min-w-52 list-none gap-0.5 overflow-y-auto p-0">
        <li>
          <TextButton onClick={() => onChange("")}>any swatch</TextButton>
        </li>
        {shown.slice(0, 256).map((swatch) => (
          <li key={swatch.id}>
            <button
              type="button"
              className={`flex w-full items-center gap-2 rounded px-1 py-0.5 text-left text-small hover:bg-ground ${swatch.id === value ? "font-semibold" : ""}`}
              onClick={() => onChange(swatch.id)}
            >
              <Patch className="size-4 shrink-0 border border-line" color={swatch.hex} />
              <span className="truncate">{swatch.name || swatch.hex}</span>
            </button>
          </li>
        ))}
      </ul>
    </PanelWord>
  );
}

/** A color in any notation; the bench's ground is at hand. */
function ColorWord({ setting, value, onChange }: Props) {
  const ground = useScreen((screen) => screen.ground);
  return (
    <PanelWord label={setting.label} text={String(value)}>
      <p className="mb-2 text-small text-quiet">{setting.use}</p>
      <TextWord label={`${setting.label} as a color`} value={String(value)} onChange={onChange} />
      <TextButton className="ml-2" onClick={() => onChange(ground)}>
        the ground of the bench
      </TextButton>
    </PanelWord>
  );
}

/** A limit or a view as a word of the sentence, whatever kind it is of. */
export function SettingWord({ setting, value, onChange }: Props) {
  if (setting.kind === "palette") return <PaletteWord setting={setting} value={value} onChange={onChange} />;
  if (setting.kind === "swatch") return <SwatchWord setting={setting} value={value} onChange={onChange} />;
  if (setting.kind === "color") return <ColorWord setting={setting} value={value} onChange={onChange} />;
  if (setting.kind === "choice")
    return (
      <ChoiceWord label={setting.label} value={String(value)} choices={setting.choices} onChange={onChange} />
    );
  const scale = setting.step >= 1 ? 1 : setting.step >= 0.1 ? 10 : 100;
  return (
    <NumberWord
      label={setting.label}
      value={Math.round(Number(value) * scale)}
      min={Math.round(setting.low * scale)}
      max={Math.round(setting.high * scale)}
      scale={scale}
      unit={() => (setting.unit ? ` ${setting.unit}` : "")}
      hint={setting.use}
      onChange={(next) => onChange(next / scale)}
    />
  );
}
