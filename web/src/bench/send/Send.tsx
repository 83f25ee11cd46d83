import { Box, Flex, Text } from '@chakra-ui/react'
import { Download, Send as SendIcon } from 'lucide-react'
import { useState } from 'react'
import { answer, api, Refused } from '../../api/client'
import { Act, Choice, Empty, Heading } from '../../parts/buttons'
import { Controls } from '../../parts/Controls'
import { useCatalog } from '../../parts/useCatalog'
import { cancelJob, rateWords, Working } from '../../shelf/Shelf'
import { timecode, useOf } from '../../shell/store'

/** Writes the finished video, as a job that can be watched and cancelled. */
export function Send() {
  const { view, jobs, say, takeJob, go } = useOf('view', 'jobs', 'say', 'takeJob', 'go')
  const formats = useCatalog()?.formats ?? []
  const [wanted, setWanted] = useState('mp4')
  const [settings, setSettings] = useState<Record<string, unknown>>({})
  const format = formats.find((f) => f.kind === wanted) ?? formats[0]
  const [what, setWhat] = useState<'all' | 'loop'>('all')
  if (!view || view.length === 0) {
    return (
      <Empty
        title="Send it"
        action={
          <Act main onClick={() => go('catch')}>
            Catch a frame
          </Act>
        }
      >
        There is nothing to send yet. Import a video first.
      </Empty>
    )
  }
  const { project } = view
  const exports = jobs.filter((j) => j.kind === 'export')
  const range = what === 'loop' ? (project.loop ?? null) : null
  const frames = range ? range[1] - range[0] : view.length
  const start = async () => {
    try {
      takeJob(
        await answer(
          api.POST('/api/projects/{project}/exports', {
            params: { path: { project: project.id } },
            body: { writer: { kind: format?.kind ?? 'mp4', ...settings }, range },
          }),
        ),
      )
    } catch (error) {
      say(error instanceof Refused ? error.message : 'The piece could not be sent.', 'trouble')
    }
  }
  return (
    <Flex h="100%" minH="0">
      <Box w="300px" flexShrink="0" borderRight="1px solid {colors.rule}" px="4" pb="3" overflowY="auto">
        <Heading>{format?.title ?? 'Format'}</Heading>
        {formats.length > 1 && (
          <Choice
            label="Format"
            value={wanted}
            onChange={(kind) => {
              setWanted(kind)
              setSettings({})
            }}
            options={formats.map((f) => ({ value: f.kind, label: f.title, hint: f.hint }))}
          />
        )}
        <Text color="soft" mb="2" className="figures">
          {format?.hint}, {project.width} × {project.height}, {rateWords(project.rate)}
        </Text>
        {format && (
          <Controls
            schema={format.settings}
            values={settings}
            onDraft={(name, value) => setSettings({ ...settings, [name]: value })}
            onCommit={(name, value) => setSettings({ ...settings, [name]: value })}
          />
        )}
        <Text mt="3" mb="1">
          Range
        </Text>
        <Choice
          label="Range"
          value={project.loop ? what : 'all'}
          onChange={setWhat}
          options={[
            { value: 'all', label: 'Whole piece' },
            ...(project.loop ? [{ value: 'loop' as const, label: 'Loop only' }] : []),
          ]}
        />
        <Text color="soft" fontSize="12px" mt="1" className="figures">
          {frames} frames, {timecode(frames, project.rate)}
        </Text>
        <Box mt="4">
          <Act main icon={SendIcon} onClick={() => void start()}>
            Send
          </Act>
        </Box>
      </Box>
      <Box flex="1" minW="0" px="4" pb="3" overflowY="auto">
        <Heading>Sent</Heading>
        {exports.length === 0 && (
          <Text color="soft">
            Nothing yet. A file appears here, and in the data folder’s “exports”, only when it is complete.
          </Text>
        )}
        {exports.map((j) => (
          <Box key={j.id} py="2" borderBottom="1px solid {colors.rule}" maxW="520px" data-export={j.state}>
            {j.state === 'running' || j.state === 'waiting' ? (
              <Working
                name={j.title}
                share={j.progress}
                remaining={j.remaining ?? null}
                onCancel={() => void cancelJob(j.id)}
              />
            ) : (
              <Flex align="center" justify="space-between" gap="3">
                <Box minW="0">
                  <Text fontWeight="600" truncate>
                    {j.state === 'done' ? String(j.result?.file) : j.title}
                  </Text>
                  <Text color={j.state === 'failed' ? 'danger' : 'soft'} fontSize="12px" className="figures">
                    {j.state === 'done'
                      ? `${(Number(j.result?.size) / 1e6).toFixed(1)} MB, ${new Date(j.made).toLocaleTimeString()}`
                      : j.message}
                  </Text>
                </Box>
                {j.state === 'done' && (
                  <Act
                    icon={Download}
                    onClick={() => {
                      const link = document.createElement('a')
                      link.href = `/api/jobs/${j.id}/file`
                      link.download = String(j.result?.file)
                      link.click()
                    }}
                  >
                    Download
                  </Act>
                )}
              </Flex>
            )}
          </Box>
        ))}
      </Box>
    </Flex>
  )
}
