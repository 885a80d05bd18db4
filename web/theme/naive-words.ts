import { enUS } from 'naive-ui'

/** What the kit says by itself: an empty field says nothing, its label does. */
export const naiveWords: typeof enUS = {
  ...enUS,
  Input: { ...enUS.Input, placeholder: '' },
  InputNumber: { ...enUS.InputNumber, placeholder: '' },
  Select: { ...enUS.Select, placeholder: 'Choose' },
  DatePicker: { ...enUS.DatePicker, datePlaceholder: 'Choose a day' },
}
