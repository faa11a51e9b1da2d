/** Tells that what is built now belongs to a detour. */
export function OnDetour({ name, onBack }: { name: string; onBack: () => void }) {
  return (
    <div className="mb-3 border border-compared bg-leaf p-2.5">
      <p>
        On the bench is the detour <b className="font-semibold text-compared-text">{name}</b>: the step itself
        stays as it is.
      </p>
      <button type="button" className="button mt-1.5" onClick={onBack}>
        Back from the detour
      </button>
    </div>
  );
}

/** Tells that the later steps do not have this step's change, and offers to bring it there. */
export function CarryOn({ later, onCarry }: { later: number; onCarry: () => void }) {
  return (
    <div className="mb-3 border border-this bg-this-wash p-2.5" data-carry>
      <p>
        {later === 1 ? "The next step does" : `The ${later} later steps do`} not have what was changed here.
      </p>
      <button type="button" className="button mt-1.5" onClick={onCarry}>
        Carry it forward
      </button>
    </div>
  );
}
