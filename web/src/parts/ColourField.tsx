import { Box, ColorPicker, Flex, Input, Portal, parseColor, Text } from '@chakra-ui/react'
import { Pipette } from 'lucide-react'
import { type ReactNode, useState } from 'react'
import { useStudio } from '../store'
import { Act } from './buttons'

interface Props {
  label: string
  value: string
  initial?: string
  disabled?: boolean
  after?: ReactNode
  onDraft: (value: string) => void
  onCommit: (value: string) => void
}

/** A colour: a swatch that opens a picker, and its hexadecimal value to type. A double click on the label sets it back. */
export function ColourField(p: Props) {
  const [text, setText] = useState<string | null>(null)
  const [live, setLive] = useState<string | null>(null)
  // A picker is much: it is made when somebody opens it.
  const [made, setMade] = useState(false)
  const shown = live ?? p.value
  const commit = (value: string) => {
    setLive(null)
    if (value.toUpperCase() !== p.value.toUpperCase()) p.onCommit(value)
  }
  return (
    <Flex align="center" gap="2" minH="28px">
      <Text
        flex="1"
        minW="0"
        truncate
        title={p.initial ? 'Double-click to set back' : undefined}
        onDoubleClick={() => p.initial && commit(p.initial)}
      >
        {p.label}
      </Text>
      {made ? (
        <Picker
          label={p.label}
          shown={shown}
          disabled={p.disabled}
          onDraft={(next) => {
            setLive(next)
            p.onDraft(next)
          }}
          onCommit={commit}
        />
      ) : (
        <Box
          as="button"
          aria-label={`${p.label}, picker`}
          aria-haspopup="dialog"
          aria-disabled={p.disabled}
          {...SWATCH}
          bg={shown}
          onClick={() => p.disabled || setMade(true)}
        />
      )}
      <Input
        aria-label={p.label}
        size="2xs"
        h="24px"
        w="74px"
        px="1.5"
        bg="raised"
        fontSize="13px"
        disabled={p.disabled}
        value={text ?? shown.toUpperCase()}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => {
          if (text !== null && /^#[0-9a-f]{6}$/i.test(text.trim())) commit(text.trim())
          setText(null)
        }}
        onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
      />
      {p.after}
    </Flex>
  )
}

const SWATCH = {
  display: 'block',
  w: '34px',
  h: '24px',
  cursor: 'pointer',
  borderRadius: 'soft',
  border: '1px solid {colors.rule}',
} as const

/** The picker of a colour, which opens when it comes. */
function Picker(p: {
  label: string
  shown: string
  disabled?: boolean
  onDraft: (value: string) => void
  onCommit: (value: string) => void
}) {
  const [open, setOpen] = useState(true)
  const setPicking = useStudio((s) => s.setPicking)
  return (
    <ColorPicker.Root
      size="xs"
      format="hsba"
      value={parseColor(p.shown).toFormat('hsba')}
      disabled={p.disabled}
      open={open}
      onOpenChange={(e) => setOpen(e.open)}
      positioning={{ placement: 'bottom-end' }}
      onValueChange={(e) => {
        p.onDraft(e.value.toString('hex').toUpperCase())
      }}
      onValueChangeEnd={(e) => p.onCommit(e.value.toString('hex').toUpperCase())}
    >
      <ColorPicker.Control>
        <ColorPicker.Trigger unstyled aria-label={`${p.label}, picker`} {...SWATCH} bg={p.shown} />
      </ColorPicker.Control>
      <Portal>
        <ColorPicker.Positioner>
          <ColorPicker.Content bg="card" borderRadius="soft" border="1px solid {colors.rule}" p="3" w="212px">
            <ColorPicker.Area h="132px" borderRadius="soft">
              <ColorPicker.AreaBackground />
              <ColorPicker.AreaThumb />
            </ColorPicker.Area>
            <ColorPicker.ChannelSlider channel="hue" mt="3">
              <ColorPicker.ChannelSliderTrack />
              <ColorPicker.ChannelSliderThumb />
            </ColorPicker.ChannelSlider>
            <Offered
              onPick={p.onCommit}
              onPicking={() => {
                setOpen(false)
                setPicking({ title: p.label, take: p.onCommit })
              }}
            />
          </ColorPicker.Content>
        </ColorPicker.Positioner>
      </Portal>
    </ColorPicker.Root>
  )
}

/** The colours of the palette, and the way to one of the picture. */
function Offered(p: { onPick: (colour: string) => void; onPicking: () => void }) {
  const palette = useStudio((s) => s.view?.project.palette) ?? []
  return (
    <>
      {palette.length > 0 && (
        <Flex gap="1.5" wrap="wrap" mt="3">
          {palette.map((c) => (
            <Box
              as="button"
              key={c}
              aria-label={`Take ${c}`}
              title={c}
              w="20px"
              h="20px"
              borderRadius="5px"
              border="1px solid {colors.rule}"
              cursor="pointer"
              bg={c}
              onClick={() => p.onPick(c)}
            />
          ))}
        </Flex>
      )}
      <Flex mt="3">
        <Act icon={Pipette} onClick={p.onPicking}>
          Pick from the picture
        </Act>
      </Flex>
    </>
  )
}
