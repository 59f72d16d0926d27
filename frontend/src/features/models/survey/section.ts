import type { Evidence, Page } from "./document";

/** What every section of the survey is given: the page, how to change it, and the evidence new facts are given. */
export interface SectionProps {
  page: Page;
  change: (next: Partial<Page>) => void;
  evidence: Evidence;
}
