import { IconButton, Menu, Portal } from '@chakra-ui/react'
import { useQueryClient } from '@tanstack/react-query'
import { Ellipsis } from 'lucide-react'
import { answer, api, type Matte, type Piece, Refused } from '../../api/client'
import { download } from '../../parts/download'
import { chooseFiles } from '../../parts/pickFiles'
import { useCutout, useOf } from '../../store'
import { copyPieces, pasted, withPieces } from '../../parts/clipboard'

/** What can be done with a matte as a whole: copy it, keep it on the shelf, take it out and bring it in. */
export function MatteMenu(p: { matte: Matte; piece: Piece | null; onCommit: (m: Matte) => void }) {
  const { view, say } = useOf('view', 'say')
  const { hold, shot } = useCutout()!
  const queries = useQueryClient()
  const url = `/api/projects/${view!.project.id}/holds/${hold.id}`
  const empty = p.matte.pieces.length === 0
  const trouble = (error: unknown) =>
    say(error instanceof Refused ? error.message : 'That did not work. Try it again.', 'trouble')

  const copy = (pieces: Piece[]) => {
    copyPieces(pieces, shot.width, shot.height)
    say(pieces.length === 1 ? `Copied ${pieces[0]!.name}.` : `Copied ${pieces.length} pieces.`)
  }
  const paste = () => {
    const added = pasted(shot.width, shot.height)
    if (added) p.onCommit(withPieces(p.matte, added))
    else say('Nothing is copied yet. Copy a piece or a matte first.')
  }
  const save = async () => {
    try {
      const saved = await answer(
        api.POST('/api/mattes', { body: { project: view!.project.id, hold: hold.id, name: hold.name, pieces: null } }),
      )
      await queries.invalidateQueries({ queryKey: ['mattes'] })
      say(`${saved.name} is on the shelf, for any hold.`)
    } catch (error) {
      trouble(error)
    }
  }
  const bringIn = () =>
    chooseFiles('.svg,.png,.tif,.tiff,image/svg+xml,image/png', async ([file]) => {
      try {
        const at = `${url}/pieces?name=${encodeURIComponent(file!.name)}`
        const response = await fetch(at, { method: 'POST', body: file! })
        const body = await response.json()
        if (!response.ok) throw new Refused(body.message)
        p.onCommit(withPieces(p.matte, body as Piece[]))
      } catch (error) {
        trouble(error)
      }
    })
  const takeOut = (kind: 'svg' | 'png') => download(`${url}/matte.${kind}`, `${hold.name}.${kind}`)
  const entries: [string, string, () => void, boolean][] = [
    ['copy-piece', `Copy ${p.piece?.name ?? 'the piece'}`, () => p.piece && copy([p.piece]), !p.piece],
    ['copy', 'Copy the matte', () => copy(p.matte.pieces), empty],
    ['paste', 'Paste', paste, false],
    ['save', 'Save on the shelf', () => void save(), empty],
    ['in', 'Bring in SVG or PNG…', bringIn, false],
    ['svg', 'Take out as SVG', () => takeOut('svg'), empty],
    ['png', 'Take out as PNG', () => takeOut('png'), empty],
  ]
  return (
    <Menu.Root positioning={{ placement: 'bottom-end' }}>
      <Menu.Trigger asChild>
        <IconButton
          aria-label="More for this matte"
          variant="plain"
          minW="26px"
          h="26px"
          color="ink"
          borderRadius="soft"
          _hover={{ bg: 'paper' }}
        >
          <Ellipsis size={16} />
        </IconButton>
      </Menu.Trigger>
      <Portal>
        <Menu.Positioner>
          <Menu.Content bg="card" color="ink" border="1px solid {colors.rule}" minW="190px">
            {entries.map(([value, label, act, off]) => (
              <Menu.Item
                key={value}
                value={value}
                onClick={act}
                disabled={off}
                cursor="pointer"
                _highlighted={{ bg: 'paper' }}
              >
                {label}
              </Menu.Item>
            ))}
          </Menu.Content>
        </Menu.Positioner>
      </Portal>
    </Menu.Root>
  )
}
