'use client';
import { Check, Copy } from 'lucide-react';
import { useState } from 'react';
import { formatExtent } from '@/core/base';
import type { CardRow, PlanDocument } from '@/core/plan';
import { typedText } from '@/core/run';
import { Button, Mark } from '@/ui';
import { useSession } from '@/state';
import { useChangedRows, usePlan } from '../hooks';
import { paneClass } from '../panes';
import { saidText } from '../row-words';
import { Checks } from './checks';

/** Rows that one line of layout says together. */
const LAYOUT_ROWS = new Set(['quads', 'patches', 'componentsX', 'componentsY']);

async function copy(text: string): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text);
    return true;
  } catch {
    return false;
  }
}

function CopyButton({ text, label }: { text: string; label: string }) {
  const [state, setState] = useState<'idle' | 'done' | 'failed'>('idle');
  return (
    <button
      type="button"
      aria-label={
        state === 'done' ? `${label} copied` : state === 'failed' ? `${label} could not be copied` : `Copy ${label}`
      }
      title={state === 'failed' ? 'The browser did not allow copying' : `Copy ${text}`}
      className={`p-1 hover:text-ink ${state === 'done' ? 'text-kelp' : state === 'failed' ? 'text-madder' : 'text-quiet'}`}
      onClick={() => {
        void copy(text).then((done) => {
          setState(done ? 'done' : 'failed');
          setTimeout(() => setState('idle'), 1500);
        });
      }}
    >
      {state === 'done' ? <Check size={14} aria-hidden="true" /> : <Copy size={14} aria-hidden="true" />}
    </button>
  );
}

function Row({ row, provisional, changed }: { row: CardRow; provisional: boolean; changed: boolean }) {
  const [open, setOpen] = useState(false);
  return (
    <li className="border-b border-rule">
      <div className="flex items-center pl-4 pr-2 min-h-[31px] gap-1">
        <span className="min-w-0">
          <button
            type="button"
            aria-expanded={open}
            onClick={() => setOpen(!open)}
            className="block text-left hover:text-kelp decoration-dotted underline-offset-4 hover:underline whitespace-nowrap"
            title="Why"
          >
            {row.label}
            <span className="sr-only"> why</span>
          </button>
          {row.metres !== '' && (
            <span className="block num text-quiet text-[12px] leading-[14px] pb-1">
              {row.metres.replace(/ m$/, '\u00a0m')}
            </span>
          )}
          {(row.assumed.length > 0 || changed) && (
            <span className="flex items-center gap-2 text-ochre text-[12px] leading-[14px] pb-1">
              {row.assumed.length > 0 && (
                <span
                  className="inline-flex items-center gap-1"
                  title={`Rests on a placeholder: ${row.assumed.join(', ')}`}
                >
                  <Mark state="caution" silent /> placeholder
                </span>
              )}
              {changed && <span title="Changed since the last pack">△ changed</span>}
            </span>
          )}
        </span>
        <span className="num ml-auto text-[15px] whitespace-nowrap" data-card={row.id}>
          {provisional && (
            <span className="text-quiet" title="Provisional: the ground is being measured">
              ≈{' '}
            </span>
          )}
          {saidText(row)}
        </span>
        <span className="num text-quiet text-[12px] w-5">{row.unit}</span>
        <CopyButton text={typedText(row)} label={row.label} />
      </div>
      {open && (
        <div className="bg-kelp-wash px-4 py-2 text-[13px] leading-[17px]">
          <p>{row.note}</p>
          <p className="num text-[12px] mt-1 break-words">{row.formula}</p>
        </div>
      )}
    </li>
  );
}

function LayoutRow({ document }: { document: PlanDocument }) {
  const text = document.layoutText;
  if (text === null) return null;
  return (
    <li className="border-b border-rule flex items-center pl-4 pr-2 py-1 gap-1">
      <span className="flex-1">
        Layout{document.files.length > 1 ? ' of a tile' : ''}
        <span className="block num text-[13px] leading-[17px]" data-card="layout">
          {/* no line ends within a product */}
          {text.replace(/ × /g, '\u00a0×\u00a0')}
        </span>
      </span>
      <CopyButton text={text} label="Layout" />
    </li>
  );
}

/** The values to type into the target, always current, with the checks below. */
export function ImportCard() {
  const plan = usePlan();
  const changed = new Set(useChangedRows().map((r) => r.id));
  const open = useSession((s) => s.pane === 'card');
  const className = `${paneClass(open)} w-full sm:w-[268px] shrink-0 sm:border-l border-rule bg-panel overflow-y-auto flex-col`;
  if (!plan) return <aside aria-label="Import card" className={className} />;
  const { document, provisionalHeights } = plan;
  const rows = document.card.filter(
    (r) => !LAYOUT_ROWS.has(r.id) && !(r.id === 'verticesY' && document.tiles.width === document.tiles.height),
  );
  const isVertices = (r: CardRow): boolean => r.id.startsWith('vertices');
  const show = (r: CardRow) => (
    <Row
      key={r.id}
      row={
        r.id === 'verticesX' && document.tiles.width === document.tiles.height
          ? { ...r, label: 'Vertices per side' }
          : r
      }
      provisional={provisionalHeights && HEIGHT_ROWS.has(r.id)}
      changed={changed.has(r.id)}
    />
  );
  const all = document.card.map((r) => `${r.label}\t${typedText(r)}${r.unit && ` ${r.unit}`}`).join('\n');
  return (
    <aside aria-label="Import card" className={className}>
      <div className="flex items-baseline gap-2 px-4 pt-3 pb-2 border-b border-ink">
        <h2 className="font-semibold text-[16px]">Type in</h2>
        <span className="text-quiet text-[13px]">in this order</span>
        <span className="ml-auto">
          <CopyAll text={all} />
        </span>
      </div>
      <ul>
        <li className="border-b border-rule flex items-baseline pl-4 pr-2 py-1 gap-1">
          <span>Ground</span>
          <span className="ml-auto num text-[13px]" data-card="extent">
            {formatExtent(document.fit.extent.x, document.fit.extent.y)}
          </span>
          <span className="w-6" />
        </li>
        {rows.filter(isVertices).map(show)}
        <LayoutRow document={document} />
        {rows.filter((r) => !isVertices(r)).map(show)}
      </ul>
      <Checks />
    </aside>
  );
}

const HEIGHT_ROWS = new Set(['heightScale', 'heightOffset', 'heightRange', 'baseElevation']);

function CopyAll({ text }: { text: string }) {
  const [done, setDone] = useState(false);
  return (
    <Button
      kind="link"
      onClick={() => {
        void copy(text).then((ok) => {
          setDone(ok);
          setTimeout(() => setDone(false), 1500);
        });
      }}
    >
      {done ? 'copied' : 'copy all'}
    </Button>
  );
}
