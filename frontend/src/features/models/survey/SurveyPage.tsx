export default function SurveyPage() {
  return null;
}
