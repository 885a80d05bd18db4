import { got } from './api'

/**
 * Sends a file with texts beside it, with its progress (0 to 1, null where it is not known), which a plain fetch does
 * not tell. @throws Refused with the server's problem.
 */
export function sendForm<T>(
  path: string,
  file: File,
  fields: Record<string, string>,
  onProgress: (share: number | null) => void,
): Promise<T> {
  const body = new FormData()
  body.append('file', file)
  for (const [name, value] of Object.entries(fields)) body.append(name, value)
  const request = new XMLHttpRequest()
  request.upload.onprogress = ({ loaded, total }) => {
    onProgress(total > 0 ? loaded / total : null)
  }
  const answer = new Promise<{ ok: boolean; status: number; headers: Headers; json(): Promise<unknown> }>(
    (resolve, reject) => {
      request.onload = () =>
        resolve({
          ok: request.status < 300,
          status: request.status,
          headers: new Headers({ 'content-type': request.getResponseHeader('content-type') ?? '' }),
          json: async () => JSON.parse(request.responseText),
        })
      request.onerror = () => reject(new Error('no answer'))
    },
  )
  request.open('POST', path)
  request.send(body)
  return got<T>(answer)
}
