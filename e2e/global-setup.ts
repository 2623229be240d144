import { DEMO_MODELS } from '../demo'
import { demoStl } from '../server'

/** Makes the demo models once before the first browser starts; later runs find them ready. */
export default async function setup(): Promise<void> {
  await Promise.all(DEMO_MODELS.map(demoStl))
}
