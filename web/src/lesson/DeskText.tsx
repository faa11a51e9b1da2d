import { Capture } from "./Capture";
import { CarryOn, OnDetour } from "./aboveText";
import { Decisions } from "./Decisions";
import { useDesk, useOpenStep } from "./DeskContext";
import { Detours, withDetour } from "./Detours";
import { followLink } from "./followLink";
import { Plates } from "./Plates";
import { StartNote } from "./StartNote";
import { StepMenu } from "./StepMenu";
import { carry, decide, follow, split } from "./steps";
import { StepText } from "./StepText";

/** The text of the step that is being written, and what belongs to it. */
export function DeskText() {
  const desk = useDesk();
  const { step, content, change, showDetour, travelTexts } = useOpenStep();
  return (
    <div className="flex min-h-0 min-w-0 flex-1 flex-col">
      <StepText
        key={step.id}
        content={content}
        step={step}
        catalogue={desk.catalogue}
        first={desk.place === 0 && !desk.lesson.start}
        onLink={followLink(content, showDetour, (lookAt) => desk.desk.setState({ lookAt }))}
        menu={<StepMenu />}
        onChange={change}
        onTravel={travelTexts}
        onSplit={(after) => split(desk, step, after)}
        above={<Above />}
      >
        <WrittenDetours />
        <Plates
          plates={content.plates}
          outdated={step.outdated}
          onOpen={desk.lenses.open}
          writing={{
            patch: content.patch,
            phrase: content.phrase,
            onChange: (plates) => change({ plates }),
          }}
        />
      </StepText>
      <Capture />
    </div>
  );
}

/** What is to be known and decided before the text. */
function Above() {
  const desk = useDesk();
  const { lesson, place } = desk;
  const { step, content, detour, build } = useOpenStep();
  return (
    <>
      {place === 0 && lesson.start && <StartNote start={lesson.start} onFollow={() => follow(desk)} />}
      {detour && <OnDetour name={detour.name} onBack={() => build(undefined)} />}
      {step.content.built_on && (
        <CarryOn later={lesson.steps.length - place - 1} onCarry={() => carry(desk, step)} />
      )}
      <Decisions
        decisions={content.decisions}
        onDecide={(number, early) => decide(desk, step, number, early)}
      />
    </>
  );
}

function WrittenDetours() {
  const { lenses } = useDesk();
  const { step, content, change, detour, build, showDetour } = useOpenStep();
  const branch = () => {
    const [detours, id] = withDetour(content.detours, content.patch);
    change({ detours });
    build(id);
  };
  return (
    <Detours
      detours={content.detours}
      said={step.detours}
      shown={lenses.against === "detour" ? lenses.detour?.name : undefined}
      onShow={showDetour}
      writing={{
        building: detour?.id,
        onBuild: build,
        onBranch: branch,
        onChange: (detours) => change({ detours }),
      }}
    />
  );
}
