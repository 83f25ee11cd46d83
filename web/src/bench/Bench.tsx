import { useStudio } from '../shell/store'
import { Carve } from './carve/Carve'
import { Catch } from './catch/Catch'
import { Dress } from './dress/Dress'
import { Fly } from './fly/Fly'
import { Make } from './make/Make'
import { Send } from './send/Send'
import { Sound } from './sound/Sound'

const BENCHES = { catch: Catch, carve: Carve, fly: Fly, dress: Dress, sound: Sound, send: Send }

/** The work area: the current step, for the selected thing; or what can be made. */
export function Bench() {
  const Current = BENCHES[useStudio((s) => s.step)]
  return useStudio((s) => s.making) ? <Make /> : <Current />
}
