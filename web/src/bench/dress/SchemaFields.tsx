import { ColourField, NumberField } from '../../parts/fields'

interface Property {
  title?: string
  type?: string
  minimum?: number
  maximum?: number
  default?: unknown
  pattern?: string
  unit?: string
  step?: number
}

/** Controls for settings, built from the JSON Schema that the finish declares. */
export function SchemaFields(p: {
  schema: Record<string, unknown>
  values: Record<string, unknown>
  onDraft: (values: Record<string, unknown>) => void
  onCommit: (values: Record<string, unknown>) => void
}) {
  const properties = (p.schema.properties ?? {}) as Record<string, Property>
  return (
    <>
      {Object.entries(properties).map(([name, s]) => {
        const value = p.values[name] ?? s.default
        const label = s.title ?? name
        if (s.type === 'number') {
          const by = s.unit === '%' ? 100 : 1
          const next = (v: number) => ({ ...p.values, [name]: v / by })
          return (
            <NumberField
              key={name}
              label={label}
              unit={s.unit}
              slider
              step={s.step ?? 1}
              min={(s.minimum ?? 0) * by}
              max={(s.maximum ?? 100) * by}
              initial={Number(s.default ?? 0) * by}
              value={Number(value) * by}
              onDraft={(v) => p.onDraft(next(v))}
              onCommit={(v) => p.onCommit(next(v))}
            />
          )
        }
        return (
          <ColourField
            key={name}
            label={label}
            value={String(value)}
            onDraft={(v) => p.onDraft({ ...p.values, [name]: v })}
            onCommit={(v) => p.onCommit({ ...p.values, [name]: v })}
          />
        )
      })}
    </>
  )
}
