import { onMounted, onUpdated, type Ref } from 'vue'

/** Says things of the element inside one of the library's controls that has the focus, where the control itself has no way to: id, label, role, what a form asks of it. */
export function useInner(control: Ref<{ $el: HTMLElement } | undefined>, selector: string, said: () => Record<string, unknown>) {
  const say = () => {
    const inner = control.value?.$el.querySelector<HTMLElement>(selector)
    if (!inner) return
    for (const [name, value] of Object.entries(said())) {
      if (name === 'class' || name === 'style' || typeof value === 'function') continue
      if (value === null || value === undefined || (value === false && !name.startsWith('aria-'))) inner.removeAttribute(name)
      else inner.setAttribute(name, value === true && !name.startsWith('aria-') ? '' : String(value))
    }
  }
  onMounted(say)
  onUpdated(say)
  return say
}
