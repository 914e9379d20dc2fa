'use client';

import type { TableSample } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useEffect, useMemo, useState } from 'react';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook, Select } from '@/ui/field';
import { asJointTable, sampleOf } from '../read-table';
import { jointColumns as texts } from '../texts';
import { type Chosen, dotsOf, JOINTS, missing, type Order, timeColumn } from './columns';
import { Dots } from './dots';

const NONE = '–';

/** Says which columns of a table of numbers are which joints; the table then comes in as a take like any other. */
export function JointColumnsDialog({
  file,
  onOpenChange,
  onTake,
}: {
  file: File;
  onOpenChange: (open: boolean) => void;
  onTake: (file: File) => void;
}) {
  const [sample, setSample] = useState<TableSample | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const [order, setOrder] = useState<Order>('together');
  const [time, setTime] = useState<number | undefined>();
  const [fps, setFps] = useState('30');
  const [row, setRow] = useState(0);
  const [chosen, setChosen] = useState<Chosen>({});
  const [asked, setAsked] = useState(JOINTS[0]!.name);
  const [busy, setBusy] = useState(false);
  useEffect(() => {
    let here = true;
    sampleOf(file).then(
      (s) => {
        if (!here) return;
        setSample(s);
        setTime(timeColumn(s));
      },
      (e: Error) => here && setFault(e.message),
    );
    return () => {
      here = false;
    };
  }, [file]);
  const dots = useMemo(() => (sample ? dotsOf(sample, order, time) : []), [sample, order, time]);
  const named = dots.map((_, i) => JOINTS.find((j) => chosen[j.name] === i)?.word);
  const choose = (joint: string, dot: number | undefined): void => {
    const next = Object.fromEntries(Object.entries(chosen).filter(([name, d]) => name !== joint && d !== dot));
    if (dot !== undefined) next[joint] = dot;
    setChosen(next);
    const after = JOINTS.slice(JOINTS.findIndex((j) => j.name === joint) + 1).find((j) => next[j.name] === undefined);
    if (dot !== undefined && after) setAsked(after.name);
  };
  const rate = Number(fps);
  const why = missing(chosen) ?? (time === undefined && !(rate > 0 && rate <= 1000) ? texts.needsRate : undefined);
  const take = async (): Promise<void> => {
    setBusy(true);
    setFault(null);
    try {
      const joints = Object.fromEntries(Object.entries(chosen).map(([name, dot]) => [name, dots[dot]!.columns]));
      onTake(await asJointTable(file, { joints, ...(time === undefined ? { fps: rate } : { time }) }));
      onOpenChange(false);
    } catch (e) {
      setFault((e as Error).message);
      setBusy(false);
    }
  };
  const options = [{ value: NONE, label: texts.none }, ...dots.map((d, i) => ({ value: String(i), label: d.label }))];
  return (
    <Dialog
      open
      onOpenChange={onOpenChange}
      title={texts.whichColumnsAreWhich}
      about={sample ? texts.rowsAndColumns(file.name, sample.rows, sample.headings.length) : file.name}
      width={1020}
    >
      {!sample && !fault && <p className="text-muted">{texts.reading}</p>}
      {sample && (
        <div className="flex gap-5">
          <div className="min-w-0 flex-1">
            <Dots
              dots={dots}
              row={Math.min(row, sample.numbers.length - 1)}
              named={named}
              onPick={(dot) => choose(asked, dot)}
            />
            <label className="mt-2 flex items-center gap-2 text-muted">
              {texts.atRow}
              <input
                type="range"
                min={0}
                max={sample.numbers.length - 1}
                value={row}
                onChange={(e) => setRow(Number(e.target.value))}
                className="flex-1 accent-(--brass)"
              />
            </label>
            <div className="mt-3 grid grid-cols-3 gap-3">
              <Field label={texts.numbersOfAJoint}>
                <Select
                  label={texts.numbersOfAJoint}
                  value={order}
                  options={[
                    { value: 'together', label: texts.together },
                    { value: 'apart', label: texts.apart },
                  ]}
                  onChange={(o) => {
                    setOrder(o as Order);
                    setChosen({});
                  }}
                />
              </Field>
              <Field label={texts.columnOfTime}>
                <Select
                  label={texts.columnOfTime}
                  value={time === undefined ? NONE : String(time)}
                  options={[
                    { value: NONE, label: texts.noTime },
                    ...sample.headings.map((h, i) => ({ value: String(i + 1), label: h })),
                  ]}
                  onChange={(t) => {
                    setTime(t === NONE ? undefined : Number(t));
                    setChosen({});
                  }}
                />
              </Field>
              {time === undefined && (
                <Field label={texts.framesASecond}>
                  <input
                    type="number"
                    min={1}
                    max={1000}
                    className={inputLook}
                    value={fps}
                    onChange={(e) => setFps(e.target.value)}
                  />
                </Field>
              )}
            </div>
          </div>
          <div className="flex w-[350px] flex-col">
            <p className="mb-2 text-muted">{texts.pressTheDot(JOINTS.find((j) => j.name === asked)!.word)}</p>
            <ul className="h-[46vh] overflow-y-auto rounded-md border border-line">
              {JOINTS.map(({ name, word }) => (
                <li
                  key={name}
                  className={clsx(
                    'flex items-center gap-2 border-b border-line/50 px-2 py-1',
                    asked === name && 'bg-raised',
                  )}
                >
                  <button
                    type="button"
                    aria-pressed={asked === name}
                    onClick={() => setAsked(name)}
                    className={clsx('flex-1 text-left', chosen[name] === undefined ? 'text-muted' : 'text-ink')}
                  >
                    {word}
                  </button>
                  <div className="w-52 shrink-0">
                    <Select
                      label={texts.columnsOf(word)}
                      className="w-full"
                      value={chosen[name] === undefined ? NONE : String(chosen[name])}
                      options={options}
                      onChange={(d) => choose(name, d === NONE ? undefined : Number(d))}
                    />
                  </div>
                </li>
              ))}
            </ul>
          </div>
        </div>
      )}
      {fault && (
        <p role="alert" className="mt-3 text-raspberry">
          {texts.mendTheTable(file.name, fault)}
        </p>
      )}
      {sample && (
        <div className="mt-4 flex items-center gap-3">
          <span className="text-muted">{why}</span>
          <Button look="brass" className="ml-auto" disabled={why !== undefined || busy} onClick={() => void take()}>
            {texts.bringItIn}
          </Button>
        </div>
      )}
    </Dialog>
  );
}
