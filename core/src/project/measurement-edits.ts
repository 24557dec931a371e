import type { Edit } from './edit'
import type { KeptMeasurement } from './schema'

/** Keeps a measurement with the project; one of the same id is replaced. */
export const keepMeasurement =
  (measurement: KeptMeasurement): Edit =>
  (p) => {
    p.measurements = [...(p.measurements ?? []).filter((m) => m.id !== measurement.id), measurement]
  }

export const renameMeasurement =
  (id: string, name: string): Edit =>
  (p) => {
    const found = p.measurements?.find((m) => m.id === id)
    if (found) found.name = name.trim().slice(0, 120) || found.name
  }

export const removeMeasurement =
  (id: string): Edit =>
  (p) => {
    p.measurements = p.measurements?.filter((m) => m.id !== id)
  }
