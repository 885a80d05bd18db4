/**
 * Air that one kilogram of a fuel needs to burn whole, kg (stoichiometric ratio). Usual figures of handbooks, from
 * memory; blends by their mass of oxygen.
 */
export const fuels = {
  petrol: { name: 'Petrol', airPerFuel: 14.7 },
  e10: { name: 'Petrol with 10 % ethanol', airPerFuel: 14.1 },
  e85: { name: 'Ethanol, 85 %', airPerFuel: 9.8 },
  lpg: { name: 'LPG', airPerFuel: 15.6 },
  diesel: { name: 'Diesel', airPerFuel: 14.5 },
} as const
export type Fuel = keyof typeof fuels

/** Whether a unit says mass of air over mass of fuel. */
export const isAirFuelRatio = (unit: string): boolean => /^(afr|a\/f|air.?fuel)/i.test(unit.trim())

/** A reading as lambda, the share of the air that is needed: 1 burns whole, above is lean. */
export const asLambda = (reading: number, unit: string, fuel: Fuel): number =>
  isAirFuelRatio(unit) ? reading / fuels[fuel].airPerFuel : reading
