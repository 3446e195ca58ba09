'use client';
import { useEffect, useState } from 'react';
import { LevelGridError } from '@/core/base';
import { layoutText, RAW_TYPES, bytesOfRaw, SURE_LEAD, type RawLayout, type RawPreview } from '@/core/formats';
import { rereadAs, showError, useSession, workers } from '@/state';
import { Button, NumberField, Select } from '@/ui';
import { useCurrentRecipe } from '../hooks';
import { Group, Hint } from './parts';
import { Thumbnail } from './thumbnail';

/** Pixels along the longer side of a small picture. */
const SIDE = 56;
/** The reading that was taken, and the next-best ones. */
const SHOWN = 4;

function usePreviews(source: Blob | null, layouts: readonly RawLayout[]): readonly RawPreview[] {
  const key = JSON.stringify(layouts);
  const [previews, setPreviews] = useState<{ key: string; of: readonly RawPreview[] }>({ key: '', of: [] });
  useEffect(() => {
    if (!source) return;
    let wanted = true;
    workers()
      .previews(source, JSON.parse(key) as RawLayout[], SIDE)
      .done.then(
        (of) => {
          if (wanted) setPreviews({ key, of });
        },
        (reason: unknown) => showError(reason, 'looking at the file'),
      );
    return () => {
      wanted = false;
    };
  }, [source, key]);
  return previews.key === key ? previews.of : [];
}

const same = (a: RawLayout, b: RawLayout): boolean =>
  a.width === b.width && a.height === b.height && a.type === b.type && a.byteOrder === b.byteOrder && a.skip === b.skip;

/** How the file was read, and the next-best readings with a picture each, one click away. */
function Readings({ layout, onTake }: { layout: RawLayout; onTake: (layout: RawLayout) => void }) {
  const source = useSession((s) => s.source);
  const guess = useSession((s) => s.facts?.guess ?? null);
  const confirmed = useCurrentRecipe()?.source.raw !== undefined;
  const [kept, setKept] = useState(guess);
  // once a reading is chosen there is no guess any more, but the others stay on offer
  if (guess && guess !== kept) setKept(guess);
  // the other byte order is the most common slip: it is always on offer
  const swapped: RawLayout = { ...layout, byteOrder: layout.byteOrder === 'little' ? 'big' : 'little' };
  const others = [...(layout.type.endsWith('8') ? [] : [swapped]), ...(kept ? [kept.layout, ...kept.next] : [])];
  const offered = [layout, ...others].filter((l, i, all) => all.findIndex((o) => same(o, l)) === i).slice(0, SHOWN);
  const previews = usePreviews(source, offered);
  const sure = (guess?.lead ?? 1) >= SURE_LEAD;
  return (
    <>
      {!confirmed && guess && (
        <Hint>
          {sure
            ? `Very likely: this reading is ${Math.round(guess.lead * 100)} % ahead of the next one. Does the map look like your ground?`
            : `Uncertain: check the map. This reading is only ${Math.round(guess.lead * 100)} % ahead of the next one. Which of these is your ground?`}
        </Hint>
      )}
      <ul className="flex flex-col gap-1" aria-label="Readings of the file">
        {offered.map((l, i) => (
          <li
            key={JSON.stringify(l)}
            className={`flex gap-2 items-center border px-1 py-1 ${i === 0 ? 'border-ink' : 'border-rule'}`}
          >
            <span className="w-14 shrink-0 grid place-items-center">
              {previews[i] && <Thumbnail preview={previews[i]} />}
            </span>
            <span className="text-[13px] leading-[17px] flex-1">{layoutText(l)}</span>
            {i > 0 ? (
              <Button kind="link" aria-label={`Read it as ${layoutText(l)}`} onClick={() => onTake(l)}>
                take it
              </Button>
            ) : confirmed ? (
              <span className="text-quiet text-[13px]">taken</span>
            ) : (
              <Button kind="link" onClick={() => onTake(l)}>
                this is right
              </Button>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

/** The fields of a layout. One side follows from the length of the file and the other. */
export function LayoutFields({
  layout,
  bytes,
  onType,
  onRead,
}: {
  layout: RawLayout;
  bytes: number;
  onType: (layout: RawLayout) => void;
  onRead: (layout: RawLayout) => void;
}) {
  const edit = (values: Partial<RawLayout>, follow: boolean): void => {
    const next = { ...layout, ...values };
    const rows = (bytes - next.skip) / (next.width * (Number(next.type.slice(1)) / 8));
    onType(follow && Number.isInteger(rows) && rows >= 1 ? { ...next, height: rows } : next);
  };
  const needed = bytesOfRaw(layout);
  const fits = needed === bytes;
  return (
    <>
      <div className="grid grid-cols-2 gap-3">
        <Select
          label="Sample type"
          value={layout.type}
          options={RAW_TYPES.map((t) => ({
            value: t,
            label: `${t.slice(1)} bit ${t.startsWith('f') ? 'float' : t.startsWith('i') ? 'signed' : 'unsigned'}`,
          }))}
          onChange={(type) => edit({ type }, true)}
        />
        <Select
          label="Byte order"
          value={layout.byteOrder}
          options={[
            { value: 'little', label: 'little-endian' },
            { value: 'big', label: 'big-endian' },
          ]}
          onChange={(byteOrder) => edit({ byteOrder }, false)}
        />
      </div>
      <Hint>Byte order: which half of each number comes first. Wrong, the terrain is noise.</Hint>
      <NumberField
        label="Width"
        value={layout.width}
        whole
        min={1}
        max={65536}
        onCommit={(width) => edit({ width }, true)}
      />
      <NumberField
        label="Height"
        value={layout.height}
        whole
        min={1}
        max={65536}
        hint="Follows from the width and the length of the file."
        onCommit={(height) => edit({ height }, false)}
      />
      <NumberField
        label="Bytes to skip"
        value={layout.skip}
        whole
        min={0}
        hint="A header in front of the first sample."
        onCommit={(skip) => edit({ skip }, true)}
      />
      <p className={`text-[13px] leading-[17px] ${fits ? 'text-quiet' : 'text-madder'}`} role="status">
        {fits ? `Fits the ${bytes} bytes of the file.` : `Needs ${needed} bytes; the file has ${bytes}.`}
      </p>
      <Button disabled={!fits} onClick={() => onRead(layout)}>
        Read it this way
      </Button>
    </>
  );
}

/** A first layout for a file of so many bytes: a square of 16-bit samples where that fits. */
export function firstLayout(bytes: number): RawLayout {
  const side = Math.max(1, Math.floor(Math.sqrt(bytes / 2)));
  return { width: side, height: side, type: 'u16', byteOrder: 'little', skip: 0 };
}

/** Everything that a headerless file does not say about itself. */
export function HeaderlessPanel() {
  const layout = useSession((s) => s.facts?.raw ?? null);
  const source = useSession((s) => s.source);
  const [typing, setTyping] = useState(false);
  // while the file is read again its layout changes: what is typed meanwhile stays
  const [draft, setDraft] = useState<{ source: Blob; layout: RawLayout } | null>(null);
  if (!layout || !source) return null;
  const typed = draft?.source === source ? draft.layout : null;
  if (typed && same(typed, layout)) setDraft(null);
  const read = (raw: RawLayout): void => {
    rereadAs(raw).catch((reason: unknown) => {
      if (!(reason instanceof LevelGridError)) throw reason;
    });
  };
  return (
    <Group title="RAW layout" aside="the file does not say">
      <Readings
        layout={layout}
        onTake={(raw) => {
          setDraft(null);
          read(raw);
        }}
      />
      <Button
        kind="link"
        aria-expanded={typing}
        onClick={() => {
          setTyping(!typing);
          setDraft(null);
        }}
      >
        {typing ? 'leave it' : 'type another layout'}
      </Button>
      {typing && (
        <LayoutFields
          layout={typed ?? layout}
          bytes={source.size}
          onType={(l) => setDraft({ source, layout: l })}
          onRead={read}
        />
      )}
    </Group>
  );
}
