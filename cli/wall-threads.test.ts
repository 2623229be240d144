import { afterAll, describe, expect, it } from 'vitest'
import { innerWall } from '@oak-stilts/core/hollow'
import { sphere } from '../core/testing/shapes'
import { wallThreads } from './wall-threads'

describe('hollowing on several cores', () => {
  const threads = wallThreads(3)
  afterAll(() => threads.end())

  it('comes to the same as on one', async () => {
    const ball = sphere([0, 0, 0], 8, 96), alone = await innerWall(ball, 1.5, 0.4)
    expect(threads.helpers).toHaveLength(2)
    // twice: threads begin anew with every wall
    for (let n = 0; n < 2; n++) expect(await innerWall(ball, 1.5, 0.4, { helpers: threads.helpers })).toEqual(alone)
  })
  it('comes to the same where threads end meanwhile', async () => {
    const ball = sphere([0, 0, 0], 8, 96), dying = wallThreads(2), made = innerWall(ball, 1.5, 0.4, { helpers: dying.helpers })
    await dying.end()
    expect(await made).toEqual(await innerWall(ball, 1.5, 0.4))
    expect(await innerWall(ball, 1.5, 0.4, { helpers: dying.helpers })).toEqual(await made)
  })
})
