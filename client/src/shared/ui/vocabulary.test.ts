import { flushPromises, mount, type VueWrapper } from '@vue/test-utils'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { h, nextTick, ref } from 'vue'

const store = { lost: false, live: new Map<string, object>(), jobs: new Map(), may: () => true }
vi.mock('../store', () => ({
  Flag: { inAlarm: 1, fault: 2, overridden: 4, outOfService: 8, stale: 16, released: 32 },
  useStore: () => store,
}))
const posted: [string, unknown][] = []
const answers: Record<string, unknown> = {}
vi.mock('../api/http', () => ({
  get: async (path: string) => answers[path],
  post: async (path: string, asked: unknown) => (posted.push([path, asked]), answers[path]),
  api: (path: string) => `/api${path}`,
}))
vi.mock('../useDo', () => ({ useDo: () => async (work: () => Promise<unknown>) => (await work(), true) }))
const pushed: string[] = []
vi.mock('vue-router', () => ({
  useRouter: () => ({ push: (to: string) => pushed.push(to) }),
  useLink: () => ({ href: ref('/there'), navigate: () => pushed.push('/there') }),
}))

const [{ default: BecauseTree }, { default: ChooseOne }, { default: ComboBox }, { default: EmptyState }, { default: ErrorState }] = await Promise.all([
  import('./BecauseTree.vue'),
  import('./ChooseOne.vue'),
  import('./ComboBox.vue'),
  import('./EmptyState.vue'),
  import('./ErrorState.vue'),
])
const [{ default: FactTag }, { default: FieldInput }, { default: FillBar }, { default: JobProgress }, { default: LiveValue }] = await Promise.all([
  import('./FactTag.vue'),
  import('./FieldInput.vue'),
  import('./FillBar.vue'),
  import('./JobProgress.vue'),
  import('./LiveValue.vue'),
])
const [{ default: NumberBox }, { default: PickOne }, { default: RecordTable }, { default: StepWizard }, { default: TextBox }, { default: WeekRibbon }] =
  await Promise.all([
    import('./NumberBox.vue'),
    import('./PickOne.vue'),
    import('./RecordTable.vue'),
    import('./StepWizard.vue'),
    import('./TextBox.vue'),
    import('./WeekRibbon.vue'),
  ])
const [{ default: RecordForm }, { about }, { count }] = await Promise.all([import('./RecordForm.vue'), import('./about'), import('../numbers')])
const show = (component: unknown, props: object, slots: object = {}): VueWrapper =>
  mount(component as never, { props, slots, attachTo: document.body } as never)
beforeEach(() => {
  document.body.innerHTML = ''
  posted.length = pushed.length = 0
})

describe('what is typed', () => {
  it('TextBox says everything at its input, and with lazy speaks once it is left', async () => {
    const w = show(TextBox, { modelValue: 'a', lazy: true, id: 'name', 'aria-label': 'Name', required: true })
    const input = w.get('input')
    expect([input.attributes('id'), input.attributes('aria-label'), input.element.required]).toEqual(['name', 'Name', true])
    await input.setValue('ab')
    expect(w.emitted('change')).toHaveLength(1)
    expect(w.emitted('update:modelValue')!.at(-1)).toEqual(['ab'])
  })
  it('NumberBox takes a comma for the point, keeps what is no number to be seen and holds back its form', async () => {
    const w = show(NumberBox, { modelValue: 21, unit: '°C' })
    const input = w.get('input')
    await input.setValue('21,5')
    expect(w.emitted('update:modelValue')).toEqual([[21.5]])
    await input.setValue('warm')
    expect(w.emitted('update:modelValue')).toHaveLength(1)
    expect(input.element.value).toBe('warm')
    expect(input.element.validity.valid).toBe(false)
    expect(input.element.validationMessage).toContain('‘warm’ is not a number')
    await input.setValue('')
    expect(w.emitted('update:modelValue')!.at(-1)).toEqual([null])
    expect(input.element.validity.valid).toBe(true)
    expect(w.text()).toContain('°C')
  })
  it('ComboBox takes the marked one with Enter, even before the answer has come, and says what is not chosen', async () => {
    let answer: (items: object[]) => void = () => {}
    const find = () => new Promise<never>((resolve) => (answer = resolve as never))
    const w = show(ComboBox, { find })
    const input = w.get('input')
    await input.setValue('kiln')
    await input.trigger('keydown', { key: 'Enter' })
    answer([{ key: '1', label: 'Kiln room', sub: 'First floor' }, { key: '2', label: 'Kiln 1', sub: '' }]) // prettier-ignore
    await flushPromises()
    answer([{ key: '1', label: 'Kiln room', sub: 'First floor' }])
    await flushPromises()
    expect(w.emitted('choose')!.at(-1)).toEqual([{ key: '1', label: 'Kiln room', sub: 'First floor' }])
    expect(input.element.value).toBe('First floor › Kiln room')
    await input.setValue('glaze')
    expect(w.emitted('choose')!.at(-1)).toEqual([null])
    await input.trigger('blur')
    await nextTick()
    expect(w.text()).toContain('Not chosen yet')
  })
  it('FieldInput offers the choices of a field, and else takes a text with its unit beside it', async () => {
    const field = {
      key: 'k',
      label: 'Kind',
      unit: null,
      isNumber: false,
      isShown: false,
      choices: ['analog', 'binary'],
      hint: null,
      leadsTo: null,
      about: null,
      least: null,
      most: null,
      isSpan: false,
    }
    expect(show(FieldInput, { field, modelValue: 'analog', label: 'Kind' }).find('[role=combobox]').exists()).toBe(true)
    const w = show(FieldInput, { field: { ...field, choices: [], unit: 's', isNumber: true }, modelValue: '60', label: 'Delay' })
    expect(w.text()).toContain('s')
    await w.get('input').setValue('90')
    expect(w.emitted('update:modelValue')!.at(-1)).toEqual(['90'])
  })
  it('a field says what it is, its unit and its limits', () => {
    const none = { about: null, unit: null, least: null, most: null, isSpan: false }
    expect(about(none)).toBe('')
    expect(about({ ...none, about: 'How warm it is.', unit: '°C' })).toBe('How warm it is. In °C.')
    expect(about({ ...none, about: 'How long.', unit: 's', least: 0.1, most: 3600, isSpan: true })).toBe(
      `How long. 0.1 to ${count(3600)} s, or written as 1 h 30 min.`,
    )
    expect(about({ ...none, least: 0, unit: 'K' })).toBe('0 or more K.')
    expect(about({ ...none, most: 10 })).toBe('at most 10.')
  })
  it('RecordForm tells of the field that one stands in', async () => {
    const field = {
      key: 'k',
      label: 'Delay',
      unit: 's',
      isNumber: true,
      isShown: false,
      choices: [],
      hint: null,
      leadsTo: null,
      about: 'How long it waits.',
      least: 0,
      most: 60,
      isSpan: false,
    }
    const w = show(RecordForm, { id: 'a', revision: 1, fields: [{ field, label: 'Delay', text: '5' }] })
    expect(w.text()).toContain('as you stand in it')
    await w.get('input').trigger('focusin')
    expect(w.text()).toContain('How long it waits. 0 to 60 s.')
    await w.get('input').trigger('focusout')
    expect(w.text()).not.toContain('How long it waits.')
  })
})

describe('what is chosen', () => {
  it('PickOne is a named combobox that can be reached by keyboard', async () => {
    const w = show(PickOne, { modelValue: 'b', options: ['a', { value: 'b', label: 'Second' }], 'aria-label': 'Which', id: 'which' })
    const box = w.get('[role=combobox]')
    expect([box.attributes('aria-label'), box.attributes('id'), box.attributes('tabindex'), box.attributes('aria-expanded')]).toEqual([
      'Which',
      'which',
      '0',
      'false',
    ])
    expect(w.text()).toContain('Second')
  })
  it('ChooseOne is a radio group and says which was chosen', async () => {
    const w = show(ChooseOne, { modelValue: 1, options: [{ value: 1, label: 'One' }, { value: 60, label: 'Sixty' }], label: 'Speed' }) // prettier-ignore
    expect(w.get('[role=radiogroup]').attributes('aria-label')).toBe('Speed')
    await w.findAll('input[type=radio]')[1]!.setValue(true)
    expect(w.emitted('update:modelValue')!.at(-1)).toEqual([60])
  })
})

describe('what is told', () => {
  it('LiveValue tells its state by shape and word, the gravest first', async () => {
    store.live.set('p:1', { text: '22.5 °C', f: 2 | 16 })
    const w = show(LiveValue, { id: 'p:1' })
    expect(w.text()).toBe('✕ 22.5 °C')
    expect(w.get('[role=img]').attributes('aria-label')).toBe('fault')
    expect(show(LiveValue, { id: 'p:none' }).text()).toBe('○ –')
  })
  it('BecauseTree says fact under fact', () => {
    const because = { fact: 'Fan is on', weight: 'decides', under: [{ fact: 'claim 10 says on', weight: 'decides', under: [] }] }
    expect(show(BecauseTree, { because }).findAll('.because').map((b) => b.text())).toEqual(['Fan is onclaim 10 says on', 'claim 10 says on']) // prettier-ignore
  })
  it('JobProgress has a stop while it runs, and a way on once it rests', async () => {
    const job = { id: 'j', label: 'Send', state: 'running', done: 1, total: 4, message: 'one of four' }
    const w = show(JobProgress, { job })
    await w.get('button').trigger('click')
    expect(posted).toEqual([['/jobs/{id}/stop', { path: { id: 'j' } }]])
    await w.setProps({ job: { ...job, state: 'stopped' } } as never)
    expect(w.findAll('button').map((b) => b.text())).toEqual(['Resume', 'Drop'])
  })
  it('states and facts stand in words', () => {
    expect(show(EmptyState, { title: 'None yet' }, { default: () => 'Add one.' }).text()).toBe('None yetAdd one.')
    expect(show(FactTag, { tone: 'amber' }, { default: () => '▲ ahead' }).text()).toBe('▲ ahead')
    expect(show(FillBar, { used: 16, of: 20 }).text()).toBe('16 of 20')
    const w = show(ErrorState, { problem: 'It does not answer.' })
    expect(w.get('[role=alert]').text()).toContain('It does not answer.')
  })
  it('WeekRibbon draws each stretch where it lies in its day, and reads out', () => {
    const w = show(WeekRibbon, { days: [{ day: 'Mon', stretches: [{ from: 540, to: 1050, says: 'open 09:00–17:30' }] }], today: 0 })
    const i = w.get('i').attributes('style')!
    // 09:00 is 37.5 % of a day, half past eight hours on 35.4167 %.
    expect(i).toContain('left: 37.5%')
    expect(i).toContain('width: 35.4166')
    expect(w.get('[role=img]').attributes('aria-label')).toBe('Mon open 09:00–17:30')
  })
})

describe('RecordTable', () => {
  const rows = Array.from({ length: 20 }, (_, i) => ({ id: `r${i}`, name: `Row ${i}` }))
  const removed: string[][] = []
  const props = {
    rows,
    columns: [{ key: 'name', title: 'Name', sort: (r: { name: string }) => r.name }],
    id: (r: { id: string }) => r.id,
    noun: 'row',
    plural: 'rows',
    words: (r: { name: string }) => r.name,
    page: (r: { id: string }) => `/rows/${r.id}`,
    actions: [{ label: 'Remove…', key: 'Delete', many: true, run: (list: { id: string }[]) => removed.push(list.map((r) => r.id)) }],
  }
  const table = () => show(RecordTable, props, { details: ({ row }: { row: { name: string } }) => h('p', { class: 'about' }, `About ${row.name}`) })
  it('has chosen its first row, with the details beside it', () => {
    const w = table()
    expect(w.get('.about').text()).toBe('About Row 0')
    expect(w.findAll('tr[tabindex="0"]')).toHaveLength(1)
  })
  it('is walked with the arrows, opened with Enter, removed from with its key, ticked with Space', async () => {
    const w = table()
    await w.get('tr[data-row=r0]').trigger('keydown', { key: 'ArrowDown' })
    await flushPromises()
    expect(w.get('.about').text()).toBe('About Row 1')
    await w.get('tr[data-row=r1]').trigger('keydown', { key: 'Enter' })
    expect(pushed).toEqual(['/rows/r1'])
    await w.get('tr[data-row=r1]').trigger('keydown', { key: 'Delete' })
    expect(removed.at(-1)).toEqual(['r1'])
    for (const id of ['r1', 'r3']) await w.get(`tr[data-row=${id}]`).trigger('keydown', { key: ' ' })
    expect(w.text()).toContain('2 ticked')
    await w.findAll('.tools button').find((b) => b.text() === 'Remove…')!.trigger('click') // prettier-ignore
    expect(removed.at(-1)).toEqual(['r1', 'r3'])
  })
  it('filters by words, says how many, and chooses among what is left', async () => {
    const w = table()
    await w.get('input[aria-label="Filter the rows"]').setValue('row 1')
    await flushPromises()
    expect(w.get('[role=status]').text()).toBe('1 of 20 rows')
    expect(w.get('.about').text()).toBe('About Row 1')
  })
})

it('StepWizard goes where a step is ready, and nowhere else', async () => {
  const steps = [{ key: 'a', title: 'First', ready: true }, { key: 'b', title: 'Second', ready: false }] // prettier-ignore
  const w = show(StepWizard, { steps, step: 'a' }, { a: () => 'one', b: () => 'two' })
  expect(w.text()).toContain('one')
  await w.get('[data-step=b]').trigger('keydown', { key: 'Enter' })
  expect(w.emitted('update:step')).toBeUndefined()
  await w.setProps({ steps: steps.map((s) => ({ ...s, ready: true })) } as never)
  await w.get('[data-step=b]').trigger('keydown', { key: 'Enter' })
  expect(w.emitted('update:step')).toEqual([['b']])
})
