import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, body, type Schemas } from "@/api/client";

export type JobLine = Schemas["JobLineView"];
export type JobIn = Schemas["JobIn"];
export type CloseIn = Schemas["CloseIn"];

export function useJobs(ended: boolean, enabled = true) {
  return useQuery({
    enabled,
    queryKey: ["jobs", ended],
    queryFn: async () => body(await api.GET("/api/v1/jobs", { params: { query: { ended } } })),
    refetchInterval: 30_000,
  });
}

export type Day = Schemas["DayView"];
export type DayJob = Schemas["DayJobView"];

/** Who has what at the bench, where each job stands, and what comes up beside the jobs. */
export function useDay() {
  return useQuery({
    queryKey: ["jobs", "day"],
    queryFn: async () => body(await api.GET("/api/v1/bench/day")),
    refetchInterval: 30_000,
  });
}

export function useJob(id: number | null) {
  return useQuery({
    queryKey: ["job", id],
    queryFn: async () => body(await api.GET("/api/v1/jobs/{job_id}", { params: { path: { job_id: id ?? 0 } } })),
    enabled: id !== null,
    // Somebody answers from a device of their own: while an approval is asked, the job is read again.
    refetchInterval: (query) => (query.state.data?.approvals.some((item) => item.granted === null) ? 3_000 : false),
    refetchIntervalInBackground: true,
  });
}

/** What the records say of a part in the hand; asked again for every part and serial. */
export function useInHand(job: number, position: string, part: string, serial: string) {
  return useQuery({
    queryKey: ["in-hand", job, position, part, serial],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/jobs/{job_id}/in-hand", {
          params: { path: { job_id: job }, query: { position, part, serial } },
        }),
      ),
    enabled: part.length > 0,
    retry: false,
    refetchInterval: (query) => (query.state.status === "error" ? 3_000 : false),
  });
}

export function useApprovals() {
  return useQuery({
    queryKey: ["approvals"],
    queryFn: async () => body(await api.GET("/api/v1/approvals")),
    refetchInterval: 15_000,
  });
}

export function useExceptions() {
  return useQuery({
    queryKey: ["exceptions"],
    queryFn: async () => body(await api.GET("/api/v1/bench/exceptions")),
  });
}

export function useAsset(tag: string) {
  return useQuery({
    queryKey: ["asset", tag],
    queryFn: async () => body(await api.GET("/api/v1/assets/{tag}", { params: { path: { tag } } })),
    enabled: tag.length > 0,
    retry: false,
  });
}

export function useModelPage(id: number | null) {
  return useQuery({
    queryKey: ["model", id],
    queryFn: async () => body(await api.GET("/api/v1/models/{model_id}", { params: { path: { model_id: id ?? 0 } } })),
    enabled: id !== null,
  });
}

export function useLook(model: number, operation: string, looked: string[]) {
  return useQuery({
    queryKey: ["lift", model, operation, looked],
    queryFn: async () =>
      body(
        await api.POST("/api/v1/models/{model_id}/lift", {
          params: { path: { model_id: model } },
          body: { operation, looked },
        }),
      ),
    placeholderData: keepPreviousData,
  });
}

/** A job's end changes log, machine, shelf, page and outlook: all are read again. */
const TOUCHED = [
  "jobs",
  "job",
  "approvals",
  "exceptions",
  "log",
  "incident",
  "asset",
  "outlook",
  "plate",
  "entries",
  "model",
  "models",
];

function useJobMutation<In, Out>(mutationFn: (input: In) => Promise<Out>, keys: string[] = TOUCHED) {
  const client = useQueryClient();
  return useMutation({
    mutationFn,
    onSuccess: () => Promise.all(keys.map((key) => client.invalidateQueries({ queryKey: [key] }))),
  });
}

export const useOpenJob = () =>
  useJobMutation(async (job: JobIn) => body(await api.POST("/api/v1/jobs", { body: job })), ["jobs"]);

export const useTargets = (id: number) =>
  useJobMutation(
    async (wanted: Schemas["TargetsIn"]) =>
      body(await api.POST("/api/v1/jobs/{job_id}/targets", { params: { path: { job_id: id } }, body: wanted })),
    ["job", "jobs", "options"],
  );

const APPROVED = ["job", "jobs", "approvals", "exceptions"];

export const useAskApproval = (id: number) =>
  useJobMutation(
    async (asked: Schemas["ApprovalIn"]) =>
      body(await api.POST("/api/v1/jobs/{job_id}/approvals", { params: { path: { job_id: id } }, body: asked })),
    APPROVED,
  );

export const useAnswerApproval = () =>
  useJobMutation(
    async ({ id, answer }: { id: number; answer: Schemas["AnswerIn"] }) =>
      body(
        await api.POST("/api/v1/approvals/{approval_id}/answer", {
          params: { path: { approval_id: id } },
          body: answer,
        }),
      ),
    APPROVED,
  );

export const useAddStep = (id: number) =>
  useJobMutation(
    async (step: Schemas["TypedStepIn"]) =>
      body(await api.POST("/api/v1/jobs/{job_id}/steps", { params: { path: { job_id: id } }, body: step })),
    ["job", "jobs"],
  );

export const useReport = (id: number) =>
  useJobMutation(
    async (sent: Schemas["ReportIn"]) =>
      body(await api.POST("/api/v1/jobs/{job_id}/report", { params: { path: { job_id: id } }, body: sent })),
    ["job"],
  );

export const useStandIn = (id: number) =>
  useJobMutation(
    async (sent: Schemas["StandInIn"]) =>
      body(await api.POST("/api/v1/jobs/{job_id}/stand-in", { params: { path: { job_id: id } }, body: sent })),
    ["job"],
  );

export const useCloseJob = (id: number) =>
  useJobMutation(async (end: CloseIn) =>
    body(await api.POST("/api/v1/jobs/{job_id}/close", { params: { path: { job_id: id } }, body: end })),
  );

export const useAbandon = (id: number) =>
  useJobMutation(async (end: Schemas["AbandonIn"]) =>
    body(await api.POST("/api/v1/jobs/{job_id}/abandon", { params: { path: { job_id: id } }, body: end })),
  );

export const useSettle = (id: number) =>
  useJobMutation(async (finding: Schemas["SettleIn"]) =>
    body(await api.POST("/api/v1/jobs/{job_id}/settle", { params: { path: { job_id: id } }, body: finding })),
  );

export const useCustody = (unit: number) =>
  useJobMutation(
    async (words: string) =>
      body(
        await api.POST("/api/v1/bench/drives/{unit_id}/custody", {
          params: { path: { unit_id: unit } },
          body: { words },
        }),
      ),
    ["exceptions"],
  );

export const useReopen = (id: number) =>
  useJobMutation(async (again: Schemas["ReopenIn"]) =>
    body(await api.POST("/api/v1/jobs/{job_id}/reopen", { params: { path: { job_id: id } }, body: again })),
  );

export const holdJob = async (id: number, device: string, takeover: boolean) =>
  body(await api.POST("/api/v1/jobs/{job_id}/lease", { params: { path: { job_id: id } }, body: { device, takeover } }));

export const releaseJob = async (id: number, device: string) =>
  body(await api.POST("/api/v1/jobs/{job_id}/release", { params: { path: { job_id: id } }, body: { device } }));

export const sendEntries = async (id: number, sent: Schemas["EntriesIn"]) =>
  body(await api.POST("/api/v1/jobs/{job_id}/entries", { params: { path: { job_id: id } }, body: sent }));

/** Symptoms the company knows; those a complaint's words may mean come first, each with how much of them it explains. */
export function useSymptoms(words = "") {
  return useQuery({
    queryKey: ["symptoms", words],
    queryFn: async () => body(await api.GET("/api/v1/symptoms", { params: { query: { words: words.slice(0, 400) } } })),
    placeholderData: (before) => before,
  });
}

export function useDiagnosis(id: number, symptom: string | null, results: string) {
  return useQuery({
    queryKey: ["diagnosis", id, symptom, results],
    queryFn: async () =>
      body(
        await api.GET("/api/v1/jobs/{job_id}/diagnosis/{symptom_id}", {
          params: { path: { job_id: id, symptom_id: symptom ?? "" } },
        }),
      ),
    enabled: symptom !== null,
    placeholderData: keepPreviousData,
  });
}

export function useOptions(id: number) {
  return useQuery({
    queryKey: ["options", id],
    queryFn: async () => body(await api.GET("/api/v1/jobs/{job_id}/options", { params: { path: { job_id: id } } })),
  });
}

export function useKnowledge(shown: boolean) {
  return useQuery({
    queryKey: ["knowledge"],
    queryFn: async () => body(await api.GET("/api/v1/diagnosis/knowledge")),
    enabled: shown,
  });
}

export const useKeepKnowledge = () =>
  useJobMutation(
    async (text: string) => body(await api.POST("/api/v1/diagnosis/knowledge", { body: { text } })),
    ["knowledge", "symptoms", "diagnosis"],
  );

export const useIssue = (job: number) =>
  useJobMutation(
    async (json: Schemas["IssueIn"]) =>
      body(await api.POST("/api/v1/jobs/{job_id}/issues", { params: { path: { job_id: job } }, body: json })),
    ["job", "stores", "shelf", "outlook"],
  );

export function useLabels(job: number | null, shown: boolean) {
  return useQuery({
    queryKey: ["labels", job],
    queryFn: async () => body(await api.GET("/api/v1/stand-in/labels", { params: { query: job ? { job } : {} } })),
    enabled: shown,
  });
}

export function useBenchSettings() {
  return useQuery({
    queryKey: ["bench-settings"],
    queryFn: async () => body(await api.GET("/api/v1/bench/settings")),
  });
}
