import { Box, Flex, Image, Text } from '@chakra-ui/react'
import { ArrowUpToLine, ChevronLeft, ChevronRight, Download, Play } from 'lucide-react'
import { useRef } from 'react'
import type { Job } from '../../api/client'
import { Act, Tool } from '../../parts/buttons'
import { download } from '../../parts/download'
import { useOf } from '../../store'
import { megabytes } from './useForetold'
import { cancelJob, Working } from '../../parts/Working'

/** A file that was sent. */
interface SentFile {
  url: string
  file: string
  path: string
  size: number
  type: string
  /** The project frame it begins with, and its frames a second. */
  first: number
  rate: number
}

/** What a job sent: one file or several. */
export function filesOf(job: Job): SentFile[] {
  if (job.state !== 'done' || !job.result) return []
  const told = [job.result, ...((job.result.also as Record<string, unknown>[] | undefined) ?? [])]
  return told.map((one, n) => ({
    url: `/api/jobs/${job.id}/file${n ? `?n=${n}` : ''}`,
    file: String(one.file),
    path: String(one.path ?? ''),
    size: Number(one.size),
    type: String(one.type ?? ''),
    first: Number(one.first ?? 0),
    rate: Number(one.rate ?? 30),
  }))
}

/** Files that were sent, or are being. */
export function Sent(p: { job: Job; shown?: string; onShow: (url: string) => void; onFirst?: () => void }) {
  const { job } = p
  if (job.state === 'running' || job.state === 'waiting')
    return (
      <>
        <Working
          name={job.held ? `${job.title}, held up` : job.title}
          share={job.progress}
          remaining={job.held ? null : (job.remaining ?? null)}
          onCancel={() => void cancelJob(job.id)}
        />
        {p.onFirst && (
          <Act icon={ArrowUpToLine} hint="Before all others that wait" onClick={p.onFirst}>
            Next
          </Act>
        )}
      </>
    )
  if (job.state !== 'done')
    return (
      <Box>
        <Text fontWeight="600" truncate>
          {job.title}
        </Text>
        <Text color={job.state === 'failed' ? 'danger' : 'soft'} fontSize="12px">
          {job.message}
        </Text>
      </Box>
    )
  return filesOf(job).map((one, n) => (
    <Box key={one.url} mt={n ? 2 : 0}>
      <Text fontWeight="600" truncate title={one.path}>
        {one.file}
      </Text>
      <Text color="soft" fontSize="12px" className="figures">
        {megabytes(one.size)}, {new Date(job.made).toLocaleTimeString()}
      </Text>
      <Flex gap="1.5" mt="1">
        <Act icon={Play} disabled={p.shown === one.url} onClick={() => p.onShow(one.url)}>
          Look
        </Act>
        <Act icon={Download} onClick={() => download(one.url, one.file)}>
          Download
        </Act>
      </Flex>
    </Box>
  ))
}

/** What was sent, played beside the piece, frame by frame. */
export function Played({ file }: { file: SentFile }) {
  const { view, seek, settled } = useOf('view', 'seek', 'settled')
  const film = useRef<HTMLVideoElement>(null)
  const { type, url, rate, first } = file
  const [a, b = '1'] = view!.project.rate.split('/')
  const own = Number(a) / Number(b)
  /** The picture of the piece follows what is seen here. */
  const along = () => film.current && seek(first + Math.floor(film.current.currentTime * own))
  const step = (by: number) => {
    if (!film.current) return
    film.current.pause()
    const frame = Math.max(0, Math.floor(film.current.currentTime * rate + 0.01) + by)
    film.current.currentTime = (frame + 0.5) / rate
    seek(first + Math.floor(((frame + 0.5) / rate) * own))
  }
  const chequers = 'repeating-conic-gradient(#8a8d92 0 25%, #6f7277 0 50%) 0 0 / 16px 16px'
  const fits = {
    maxWidth: '100%',
    height: '100%',
    objectFit: 'contain' as const,
    background: chequers,
    borderRadius: 3,
  }
  if (type.startsWith('image/')) return <Image src={url} alt={`What was sent: ${file.file}`} style={fits} />
  if (type !== 'video/mp4' && type !== 'video/webm')
    return (
      <Text color="soft" textAlign="center" maxW="280px">
        This format cannot be played here. The file is at {file.path}.
      </Text>
    )
  return (
    <Flex direction="column" align="center" w="100%" h="100%" minH="0" gap="1.5">
      <Box flex="1" minH="0" w="100%" textAlign="center">
        <video ref={film} src={url} controls playsInline style={fits} data-testid="played" onTimeUpdate={along} />
      </Box>
      <Flex align="center" gap="1">
        <Tool icon={ChevronLeft} label="A frame back" onClick={() => step(-1)} />
        <Tool icon={ChevronRight} label="A frame on" onClick={() => step(1)} />
        <Text
          color="soft"
          fontSize="12px"
          className="figures"
          css={{ '@container (max-width: 240px)': { display: 'none' } }}
        >
          Beside the piece at {settled}
        </Text>
      </Flex>
    </Flex>
  )
}
