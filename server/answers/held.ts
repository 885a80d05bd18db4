import * as v from 'valibot'

/** A type as JSON carries it: nothing is readonly, and functions stay behind. */
type Carried<T> = unknown extends T
  ? T
  : T extends readonly (infer Each)[]
    ? Carried<Each>[]
    : T extends object
      ? { -readonly [K in keyof T as T[K] extends (...given: never[]) => unknown ? never : K]: Carried<T[K]> }
      : T

type Same<A, B> =
  (<G>() => G extends A ? 1 : 2) extends <G>() => G extends B ? 1 : 2
    ? unknown
    : { notThisType: A; butThis: B }

/**
 * The schema of a part of an answer, by the name under which the OpenAPI document keeps it. It is held to the type that the
 * code gives: a member more or less on either side does not compile.
 */
export const held =
  <T>() =>
  <const S extends v.GenericSchema>(
    name: string,
    schema: S & (Same<Carried<T>, Carried<v.InferOutput<S>>> | Same<Carried<T>, Carried<v.InferInput<S>>>),
  ) =>
    v.pipe(schema as S, v.metadata({ ref: name }))
