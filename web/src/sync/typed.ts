import { useKeptTyping } from "../ui/kept-typing";
import { useStore } from "./job-context";

/** Words that somebody types for a job, kept by person, job and place until they are taken. */
export function useTyped(about: string): [string, (text: string) => void] {
  const { person, job } = useStore();
  const [text, setText] = useKeptTyping(`mellow-span/typed/${person}/${job}/${about}`, "");
  return [text, setText];
}
