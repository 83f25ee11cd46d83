import { Box, Flex, Text } from '@chakra-ui/react'
import { Archive, Keyboard, Moon, Redo2, Sun, Undo2, Wand } from 'lucide-react'
import { useState } from 'react'
import { Hint, Tool } from '../parts/buttons'
import { NameField } from '../parts/fields'
import { applyTheme, rememberedTheme } from '../theme/system'
import { useSnags } from '../bench/send/useSnags'
import { withKey } from '../parts/keys'
import { type Step, STEPS, useOf } from '../store'

const TITLES: Record<Step, [string, string]> = {
  catch: ['Catch', 'Find the frame and hold it'],
  carve: ['Carve', 'Cut the subject out'],
  fly: ['Fly', 'Place and animate the cutout'],
  dress: ['Dress', 'Restyle cutout and footage'],
  sound: ['Sound', 'Put hits and music on frames'],
  send: ['Send', 'Write the finished video'],
}

function Brand({ onClick }: { onClick?: () => void }) {
  const mark = (
    <Flex align="center" gap="2">
      <img src="/kite.svg" width={24} height={24} alt="" />
      <Text fontFamily="heading" fontWeight="700" fontSize="17px" letterSpacing="-0.01em">
        Nervy Kite
      </Text>
    </Flex>
  )
  if (!onClick) return mark
  return (
    <Hint text="All projects">
      <Box as="button" aria-label="Nervy Kite: all projects" cursor="pointer" onClick={onClick}>
        {mark}
      </Box>
    </Hint>
  )
}

/** The top of the page where no project is open. */
export function PlainHeader(p: { onSheet: () => void; onBrand?: () => void }) {
  return (
    <Flex
      as="header"
      align="center"
      h="48px"
      px="4"
      bg="card"
      borderBottom="1px solid {colors.rule}"
      justify="space-between"
    >
      <Brand onClick={p.onBrand} />
      <Flex gap="1" align="center">
        <Tool icon={Keyboard} label="Keyboard" hint={withKey('All keys', 'sheet')} onClick={p.onSheet} />
        <ThemeTool />
      </Flex>
    </Flex>
  )
}

function ThemeTool() {
  const [theme, setTheme] = useState(rememberedTheme)
  const next = theme === 'light' ? 'dark' : 'light'
  return (
    <Tool
      icon={theme === 'light' ? Moon : Sun}
      label={next === 'dark' ? 'Night theme' : 'Day theme'}
      onClick={() => {
        applyTheme(next)
        setTheme(next)
      }}
    />
  )
}

/** The top of the page: the project's name, the steps of the work, undo and redo, whether all is saved. */
export function Header({ onSheet }: { onSheet: () => void }) {
  const { view, step, go, making, make, edit, undo, redo, close, saving, linked, shelf, toggleShelf } = useOf(
    'view',
    'step',
    'go',
    'making',
    'make',
    'edit',
    'undo',
    'redo',
    'close',
    'saving',
    'linked',
    'shelf',
    'toggleShelf',
  )
  if (!view) return null
  return (
    <Flex
      as="header"
      align="center"
      h="48px"
      px="4"
      gap="3"
      bg="card"
      borderBottom="1px solid {colors.rule}"
      flexShrink="0"
    >
      <Flex align="center" gap="4" flex="1 1 0" minW="0">
        <Brand onClick={close} />
        <Box color="soft" minW="0">
          <NameField
            label="Project name"
            value={view.project.name}
            onCommit={(name) => void edit({ kind: 'rename project', name })}
          />
        </Box>
      </Flex>
      <Hint text="Choose what to make, and have it made of your footage">
        <Flex
          as="button"
          aria-pressed={making}
          onClick={make}
          align="center"
          gap="1.5"
          px="3"
          h="34px"
          fontFamily="heading"
          fontSize="15px"
          fontWeight="650"
          cursor="pointer"
          borderRadius="soft"
          border="1px solid {colors.rule}"
          bg={making ? 'paper' : 'transparent'}
          color={making ? 'ink' : 'soft'}
        >
          <Wand size={15} aria-hidden="true" />
          Make
        </Flex>
      </Hint>
      <Flex as="nav" aria-label="Steps" align="center">
        {STEPS.map((s, n) => (
          <Flex key={s} align="center">
            {n > 0 && <Box w="14px" h="1px" bg="rule" />}
            <Hint text={`${TITLES[s][1]} (${n + 1})`}>
              <Box
                as="button"
                aria-current={s === step && !making ? 'step' : undefined}
                onClick={() => go(s)}
                px="3.5"
                h="34px"
                fontFamily="heading"
                fontSize="15px"
                fontWeight="650"
                cursor="pointer"
                borderRadius="soft"
                border="1px solid"
                borderColor={s === step && !making ? 'rule' : 'transparent'}
                bg={s === step && !making ? 'paper' : 'transparent'}
                color={s === step && !making ? 'ink' : 'soft'}
                position="relative"
              >
                {TITLES[s][0]}
                {s === 'send' && <SnagCount />}
                {s === step && !making && (
                  <Box position="absolute" left="14px" right="14px" bottom="3px" h="2px" bg="selected" />
                )}
              </Box>
            </Hint>
          </Flex>
        ))}
      </Flex>
      <Flex align="center" gap="1" flex="1 1 0" justify="flex-end">
        <Tool
          icon={Undo2}
          label="Undo"
          hint={view.undo ? withKey(`Undo ${view.undo}`, 'undo') : 'Nothing to undo'}
          disabled={!view.undo}
          onClick={() => void undo()}
        />
        <Tool
          icon={Redo2}
          label="Redo"
          hint={view.redo ? withKey(`Redo ${view.redo}`, 'redo') : 'Nothing to redo'}
          disabled={!view.redo}
          onClick={() => void redo()}
        />
        <Text color={linked ? 'soft' : 'danger'} fontSize="12px" w="66px" textAlign="center" aria-live="polite">
          {linked ? (saving ? 'Saving…' : 'Saved') : 'No server'}
        </Text>
        <Tool
          icon={Archive}
          label="Shelf"
          hint={withKey('Shelf: shots and holds', 'shelf')}
          on={shelf}
          onClick={toggleShelf}
        />
        <Tool icon={Keyboard} label="Keyboard" hint={withKey('All keys', 'sheet')} onClick={onSheet} />
        <ThemeTool />
      </Flex>
    </Flex>
  )
}

/** How many snags there are, quietly. */
function SnagCount() {
  const snags = useSnags()
  if (!snags?.length) return null
  return (
    <Box
      as="span"
      aria-hidden="true"
      className="figures"
      title={`${snags.length} ${snags.length === 1 ? 'thing' : 'things'} that may look wrong: see Send`}
      ml="1.5"
      px="1.5"
      fontSize="11px"
      lineHeight="16px"
      borderRadius="8px"
      bg="rule"
      color="ink"
      display="inline-block"
      verticalAlign="2px"
      data-testid="snag-count"
    >
      {snags.length}
    </Box>
  )
}
