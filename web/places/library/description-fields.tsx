'use client';

import { Plus, Star, X } from 'lucide-react';
import { useFields } from '@/client/queries';
import { RIGHTS_WORDS } from '@/client/words';
import type { CustomField, Item, ItemChange, Rights } from '@/contract';
import { Button } from '@/ui/button';
import { KeptInput, Row, Select, SwitchRow } from '@/ui/field';
import { descriptionFields as texts } from './texts';

interface DescriptionFieldsProps {
  item: Item;
  /** Nothing here may be changed by whoever looks. */
  closed: boolean;
  onSet: (change: ItemChange, label: string) => void;
}

/** What people say of an item beyond name, tags and folder: stars, rights, heading, props, and the library's own fields. */
export function DescriptionFields({ item, closed, onSet }: DescriptionFieldsProps) {
  const { data: fields = [] } = useFields();
  return (
    <div className="flex flex-col gap-1.5">
      <Row name={texts.heading}>
        <KeptInput
          aria-label={texts.heading}
          placeholder={texts.forListsAndCall}
          readOnly={closed}
          value={item.heading}
          title={item.heading}
          onKeep={(heading) => onSet({ heading }, texts.changedTheHeadingOf(item.name))}
          className="min-w-0 py-0.5!"
        />
      </Row>
      <Row name={texts.source}>
        <KeptInput
          aria-label={texts.sourceAndLicence}
          placeholder={texts.whereItIsFrom}
          readOnly={closed}
          value={item.source}
          title={item.source}
          onKeep={(source) => onSet({ source }, texts.changedTheSourceOf(item.name))}
          className="min-w-0 py-0.5!"
        />
      </Row>
      <Row name={texts.rights}>
        <Select
          label={texts.rights}
          className={`min-w-0 py-0.5! ${closed ? 'pointer-events-none opacity-70' : ''}`}
          value={item.rights}
          onChange={(rights) => onSet({ rights }, texts.setTheRightsOf(item.name, RIGHTS_WORDS[rights]))}
          options={(Object.keys(RIGHTS_WORDS) as Rights[]).map((value) => ({ value, label: RIGHTS_WORDS[value] }))}
        />
      </Row>
      <Row name={texts.stars}>
        <fieldset className="flex items-center gap-0.5" aria-label={texts.stars}>
          {[1, 2, 3, 4, 5].map((s) => (
            <button
              key={s}
              type="button"
              disabled={closed}
              aria-label={texts.stars2(s)}
              aria-pressed={item.rating >= s}
              onClick={() =>
                onSet(
                  { rating: item.rating === s ? 0 : s },
                  item.rating === s ? texts.gaveNoStars(item.name) : texts.gaveStars(item.name, s),
                )
              }
              className="rounded p-0.5 text-brass-text disabled:cursor-default"
            >
              <Star size={14} className={item.rating >= s ? 'fill-current' : 'text-muted'} />
            </button>
          ))}
        </fieldset>
      </Row>
      <Props item={item} closed={closed} onSet={onSet} />
      {fields.map((f) => (
        <OwnField
          key={f.id}
          field={f}
          value={item.fields[f.id]}
          closed={closed}
          onSet={(value) => onSet({ fields: { [f.id]: value } }, texts.setOf(f.name, item.name))}
        />
      ))}
    </div>
  );
}

function Props({ item, closed, onSet }: DescriptionFieldsProps) {
  const write = (props: Item['props'], label: string): void => onSet({ props }, label);
  return (
    <div className="flex flex-col gap-1 px-1 text-[12px]">
      {item.props.map((p, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: two props may be called the same
        <div key={`${p.name}-${i}`} className="flex items-center gap-1.5">
          <span className="text-muted">{texts.needs}</span>
          <span className="min-w-0 truncate">{p.name}</span>
          <KeptInput
            aria-label={texts.heightOfInMetres(p.name)}
            placeholder={texts.height}
            readOnly={closed}
            value={p.heightM === null ? '' : String(p.heightM)}
            onKeep={(text) => {
              const height = text === '' ? null : Number(text.replace(',', '.'));
              if (height === null || Number.isFinite(height))
                write(
                  item.props.map((q, k) => (k === i ? { ...q, heightM: height } : q)),
                  texts.setTheHeightOf(p.name),
                );
            }}
            className="ml-auto w-16 py-0! text-right"
          />
          <span className="text-muted">m</span>
          {!closed && (
            <button
              type="button"
              aria-label={texts.remove(p.name)}
              onClick={() =>
                write(
                  item.props.filter((_, k) => k !== i),
                  texts.needsNo(item.name, p.name),
                )
              }
              className="rounded p-0.5 text-muted hover:text-ink"
            >
              <X size={12} />
            </button>
          )}
        </div>
      ))}
      {!closed && (
        <Button
          look="quiet"
          size="tiny"
          className="self-start px-1!"
          onClick={() => write([...item.props, { name: 'prop', heightM: null }], texts.needsAProp(item.name))}
        >
          <Plus size={12} /> {texts.aPropThatIt}
        </Button>
      )}
    </div>
  );
}

function OwnField({
  field,
  value,
  closed,
  onSet,
}: {
  field: CustomField;
  value: string | number | boolean | undefined;
  closed: boolean;
  onSet: (value: string | number | boolean) => void;
}) {
  if (field.type === 'yes')
    return (
      <div className={closed ? 'pointer-events-none opacity-70' : ''}>
        <SwitchRow label={field.name} checked={value === true} onChange={onSet} />
      </div>
    );
  if (field.type === 'choice')
    return (
      <div className="flex items-center justify-between gap-3">
        <span className="text-muted">{field.name}</span>
        <Select
          label={field.name}
          className={`w-40 py-0.5! ${closed ? 'pointer-events-none opacity-70' : ''}`}
          value={typeof value === 'string' && value !== '' ? value : '-'}
          onChange={(v) => onSet(v === '-' ? '' : v)}
          options={['-', ...field.options].map((o) => ({ value: o, label: o === '-' ? texts.notSaid : o }))}
        />
      </div>
    );
  return (
    <div className="flex items-center justify-between gap-3">
      <span className="text-muted">{field.name}</span>
      <KeptInput
        aria-label={field.name}
        readOnly={closed}
        value={value === undefined ? '' : String(value)}
        onKeep={(text) => {
          if (field.type === 'text') onSet(text);
          else if (text === '' || Number.isFinite(Number(text))) onSet(text === '' ? '' : Number(text));
        }}
        className="w-40 py-0.5!"
      />
    </div>
  );
}
