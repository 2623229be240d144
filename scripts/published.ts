import { z } from 'zod'
import { AuditReportSchema, CheckReportSchema, ContoursReportSchema, CutReportSchema, JobFileSchema, HollowReportSchema, KitFileSchema, LiftOutReportSchema, PackageManifestSchema, PlanCheckReportSchema, PlanFileSchema, PlanReportSchema, PrinterStateSchema, ProofReportSchema, ReadyReportSchema, RecipeFileSchema, RehearsalReportSchema, ScanReportSchema, SendReportSchema, SliceReportSchema, TiltReportSchema } from '@oak-stilts/core/contract'
import { openApiDocument } from '../server/api/openapi'

/** The published files by name, made from the Zod definitions. */
export function publishedFiles(): [string, string][] {
  const text = (value: unknown): string => JSON.stringify(value, null, 2) + '\n'
  return [
    ['plan.schema.json', text(z.toJSONSchema(PlanFileSchema))],
    ['job-file.schema.json', text(z.toJSONSchema(JobFileSchema))],
    ['kit.schema.json', text(z.toJSONSchema(KitFileSchema))],
    ['recipe.schema.json', text(z.toJSONSchema(RecipeFileSchema))],
    ['scan-report.schema.json', text(z.toJSONSchema(ScanReportSchema))],
    ['check-report.schema.json', text(z.toJSONSchema(CheckReportSchema))],
    ['tilt-report.schema.json', text(z.toJSONSchema(TiltReportSchema))],
    ['audit-report.schema.json', text(z.toJSONSchema(AuditReportSchema))],
    ['cut-report.schema.json', text(z.toJSONSchema(CutReportSchema))],
    ['hollow-report.schema.json', text(z.toJSONSchema(HollowReportSchema))],
    ['lift-out-report.schema.json', text(z.toJSONSchema(LiftOutReportSchema))],
    ['plan-report.schema.json', text(z.toJSONSchema(PlanReportSchema))],
    ['ready-report.schema.json', text(z.toJSONSchema(ReadyReportSchema))],
    ['proof-report.schema.json', text(z.toJSONSchema(ProofReportSchema))],
    ['print-package.schema.json', text(z.toJSONSchema(PackageManifestSchema))],
    ['contours-report.schema.json', text(z.toJSONSchema(ContoursReportSchema))],
    ['slice-report.schema.json', text(z.toJSONSchema(SliceReportSchema))],
    ['send-report.schema.json', text(z.toJSONSchema(SendReportSchema))],
    ['printer-state.schema.json', text(z.toJSONSchema(PrinterStateSchema))],
    ['rehearsal-report.schema.json', text(z.toJSONSchema(RehearsalReportSchema))],
    ['plan-check-report.schema.json', text(z.toJSONSchema(PlanCheckReportSchema))],
    ['openapi.json', text(openApiDocument())],
  ]
}
