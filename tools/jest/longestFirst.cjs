const Sequencer = require('@jest/test-sequencer').default

/** Test files that take the longest, so that no thread is still at one of them when all the others are done. */
const long = [
  'core/pitch/listeningLines',
  'rendering/chordListener',
  'cli/listen',
  'app/api/score/route',
  'engine/soundFiles/soundFiles',
  'core/effects/effects',
  'cli/unbroken',
  'core/beats/beats',
  'core/formats/musicXml',
  'core/notation/amendments/pen',
]
const rank = ({ path }) => {
  const place = long.findIndex((name) => path.includes(`/src/${name}.test.`))
  return place < 0 ? long.length : place
}

/** Known to be long first, on a fresh clone too; then as the runner has it. */
module.exports = class extends Sequencer {
  sort(tests) {
    return super.sort(tests).sort((one, other) => rank(one) - rank(other))
  }
}
