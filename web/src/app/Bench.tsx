import { useStudio } from '../store'
import { Carve } from '../bench/carve/Carve'
import { Catch } from '../bench/catch/Catch'
import { Dress } from '../bench/dress/Dress'
import { Fly } from '../bench/fly/Fly'
import { Make } from '../bench/make/Make'
import { Send } from '../bench/send/Send'
import { Sound } from '../bench/sound/Sound'

const BENCHES = { catch: Catch, carve: Carve, fly: Fly, dress: Dress, sound: Sound, send: Send }

/** The work area: the current step, for the selected thing; or what can be made. */
export function Bench() {
  const Current = BENCHES[useStudio((s) => s.step)]
  return useStudio((s) => s.making) ? <Make /> : <Current />
}
