/** `tsx tools/units/check.ts`: reports where units are mixed, in the whole project; exit status 1 where there are any. */
import path from 'node:path'
import ts from '@typescript/typescript6'
import { findUnitFaults } from './unitsCheck'

const root = process.cwd()
const config = ts.readConfigFile(path.join(root, 'tsconfig.json'), ts.sys.readFile)
const { fileNames, options } = ts.parseJsonConfigFileContent(config.config, ts.sys, root)
const program = ts.createProgram(fileNames, options)
const faults = findUnitFaults(program, (fileName) => !fileName.includes('node_modules'))
for (const { fileName, line, text } of faults)
  process.stderr.write(`${path.relative(root, fileName)}:${line}: ${text}\n`)
process.exit(faults.length > 0 ? 1 : 0)
