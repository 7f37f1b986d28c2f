import { type PageSetup, papers } from '../pages/pageSetup'
import { rounded } from './musicXmlDirections'

/** A staff is forty tenths high, whatever it measures. */
const staffTenths = 40

/**
 * How the music is laid out on paper: how large a staff is, the page and its margins.
 *
 * Source: MusicXML 3.0, "defaults".
 *
 * @param isPart one part for its player, on larger staves
 */
export function pageDefaults(setup: PageSetup, isPart: boolean): string {
  const staffMm = isPart ? setup.partStaffMm : setup.scoreStaffMm
  const tenths = (mm: number) => rounded((mm / staffMm) * staffTenths)
  const { widthMm, heightMm } = papers[setup.paper]
  const [across, down] = setup.isAcross ? [heightMm, widthMm] : [widthMm, heightMm]
  const margin = tenths(setup.marginMm)
  const margins = ['left', 'right', 'top', 'bottom']
    .map((side) => `<${side}-margin>${margin}</${side}-margin>`)
    .join('')
  return `<defaults><scaling><millimeters>${rounded(staffMm)}</millimeters><tenths>${staffTenths}</tenths></scaling><page-layout><page-height>${tenths(down)}</page-height><page-width>${tenths(across)}</page-width><page-margins type="both">${margins}</page-margins></page-layout></defaults>`
}
