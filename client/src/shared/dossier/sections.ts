import type { Component } from 'vue'
import type { Schemas } from '../api/http'
import type { KindKey } from '../api/kinds'
import type { Role } from '../store'
import FindingsSection from './FindingsSection.vue'
import LadderSection from './LadderSection.vue'
import OutputSection from './OutputSection.vue'
import PastSection from './PastSection.vue'
import PointsSection from './PointsSection.vue'
import PropertiesSection from './PropertiesSection.vue'
import TagsSection from './TagsSection.vue'
import TemplateSection from './TemplateSection.vue'
import UsesSection from './UsesSection.vue'
import WhySection from './WhySection.vue'

export type Dossier = Schemas['Dossier']

/** A part of the dossier, of the kinds of record that have it; it folds, and stays as it was folded. */
export interface Section {
  key: string
  title: string
  component: Component
  /** The kinds it is of; all where none are named. */
  of?: readonly KindKey[]
  when?: (dossier: Dossier) => boolean
  role?: Role
  /** Folded until somebody opens it. */
  isFolded?: boolean
}

const isOutput = ({ record }: Dossier) => record.type === 'point' && record.role !== 'sensor'

/** What is asked first stands first: why, what holds it, what is in it, what uses it; what it is made of comes after. */
export const sections: readonly Section[] = [
  { key: 'why', title: 'Why?', component: WhySection, of: ['point', 'alarm'] },
  { key: 'ladder', title: 'Claim ladder', component: LadderSection, when: isOutput },
  { key: 'may', title: 'What it does when …', component: OutputSection, when: isOutput, isFolded: true },
  { key: 'points', title: 'Points', component: PointsSection, of: ['place', 'equipment'] },
  { key: 'whys', title: 'Why?', component: WhySection, of: ['place', 'equipment'] },
  { key: 'findings', title: 'Findings here', component: FindingsSection, when: (d) => d.findings.length > 0 },
  { key: 'uses', title: 'Used by', component: UsesSection, when: (d) => d.noun !== 'site' },
  { key: 'properties', title: 'Properties', component: PropertiesSection, when: (d) => d.fields.length > 0, role: 'engineer' },
  { key: 'tags', title: 'Tags', component: TagsSection, of: ['point', 'place', 'equipment'] },
  {
    key: 'template',
    title: 'Template and copies',
    component: TemplateSection,
    of: ['equipment', 'place', 'controller'],
    when: (d) => d.noun !== 'site',
    role: 'engineer',
  },
  { key: 'past', title: 'What was done to it', component: PastSection, isFolded: true },
]
