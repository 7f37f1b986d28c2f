import { z } from '../border/checks'

/** Sizes upright, in millimetres: paper by ISO 216 and ANSI Y14.1, and screens of 12.9 and 12.2 inches. */
export const papers = {
  A4: { name: 'A4', widthMm: 210, heightMm: 297 },
  letter: { name: 'Letter', widthMm: 215.9, heightMm: 279.4 },
  A3: { name: 'A3', widthMm: 297, heightMm: 420 },
  tablet: { name: 'Tablet 4:3', widthMm: 197, heightMm: 262.7 },
  wideTablet: { name: 'Tablet 16:10', widthMm: 164, heightMm: 262.4 },
} as const

export type PaperName = keyof typeof papers
export const paperNames = Object.keys(papers) as PaperName[]

/** How a piece is laid out on paper. */
export const pageSetupSchema = z.object({
  paper: z.enum(paperNames as [PaperName, ...PaperName[]]),
  isAcross: z.boolean(),
  /** From the highest to the lowest line of a staff, in the score and in parts. */
  scoreStaffMm: z.number().min(3).max(12),
  partStaffMm: z.number().min(3).max(12),
  marginMm: z.number().min(5).max(40),
  /** At most so many; null: as many as fit. */
  barsToLine: z.number().int().min(1).max(32).nullable(),
  linesToPage: z.number().int().min(1).max(32).nullable(),
  /** In parts, rests of several bars are one sign. */
  gathersRests: z.boolean(),
  /** In parts, a page ends where there is time to turn it, if that costs little. */
  turnsAtRests: z.boolean(),
  /** In parts, what another part plays stands in small notes before an entry after a long rest. */
  writesCues: z.boolean(),
  /** Parts of drums begin with what each place of the staff means. */
  writesDrumKey: z.boolean(),
  /** In the score, staves that are silent throughout a line are left out of it. */
  hidesEmptyStaves: z.boolean(),
})

export type PageSetup = Readonly<z.infer<typeof pageSetupSchema>>

export const defaultPageSetup: PageSetup = {
  paper: 'A4',
  isAcross: false,
  scoreStaffMm: 5.5,
  partStaffMm: 7,
  marginMm: 15,
  barsToLine: null,
  linesToPage: null,
  gathersRests: true,
  turnsAtRests: true,
  writesCues: false,
  writesDrumKey: true,
  hidesEmptyStaves: false,
}

/** Points of typesetting to the millimetre. */
export const pointsToMm = 72 / 25.4

/** Of a page, in points. */
export interface PageSize {
  readonly widthPt: number
  readonly heightPt: number
  readonly marginPt: number
}

export function pageSizeOf({ paper, isAcross, marginMm }: PageSetup): PageSize {
  const { widthMm, heightMm } = papers[paper]
  const [across, down] = isAcross ? [heightMm, widthMm] : [widthMm, heightMm]
  return {
    widthPt: across * pointsToMm,
    heightPt: down * pointsToMm,
    marginPt: marginMm * pointsToMm,
  }
}
