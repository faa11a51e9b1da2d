"""Where the stages of the analysis draw their lines: every threshold, with its unit, by stage.

They are of three kinds. *Theory*: what follows from what is measured, with its reason. *Ear*: what is heard, with its
source. *Trial*: a trade-off between what is said falsely and what is left unsaid, set so that the least is false of the
sounds of `tests/truth`, whose nature is known by construction (`docs/truths.md`): who moves one measures both there.
"""

# What is given
SILENT = 1e-5  # ear: of full level, −100 dB
LEAD_S = 0.02  # theory: half a cycle of what is just heard (25 ms at 20 Hz), nearly twice
COARSE = 8  # samples in a block: a sixth of a millisecond, shorter than any attack that is told
HUSHED = 0.005  # trial: of the peak, −46 dB: what is fainter for LEAST_SILENCE_S is a break
LEAST_SILENCE_S = 0.015  # trial
SILENT_CYCLES = 1.3  # theory: a narrow pulse is silent for nearly one cycle, and is no break
COURSE_BELOW = 1e-3  # theory: what never goes below zero, but for rounding, is a course of strength

# The course of the pitch
STRUCK_S = 0.04  # trial: so near to where something is struck, a glide may begin or end with it
DRIVEN_CENTS = 25.0  # trial: behind a filter that moves, as much may be the filter's doing
MOST_BEATEN_CENTS = 40.0  # trial: two tones that beat make a pitch tremble by so much at most
FASTEST_BEAT_HZ = 15.0  # ear: faster, two tones are heard as roughness (Zwicker and Fastl 2007, ch. 11)
BEATEN_DB = 30.0  # trial: a fainter one beside a tone makes it tremble no more
BEATEN_S, BEATEN_SHARE = 0.02, 0.04  # trial: the level swells by so much of its mean, smoothed over so long

# The course of the pitch, where it is known
MOST_TURNS_A_SECOND = 60.0  # ear: what turns more often is heard as a timbre (30 Hz, two turns each)
LEAP_ST, LEAP_TIMES = 0.05, 4.0  # trial: a leap is one sample's step, so many times longer than those beside it
LEAST_TURN_ST = 0.015  # ear: 1.5 cents; smaller movements of a tone are not heard
LEAST_TURNS, LEAST_LEAPS = 4, 4  # theory: two turns to either side, for something to come back
EVEN, MONOTONE = 1.1, 0.97  # trial: greatest over least of what is the same; of what goes one way, so little is back
SAME_LEVEL_ST = 0.05  # trial: a trill stands on its notes
LEAST_TOLD_ST = 0.3  # trial: a shorter way is no glide
MOVED_ST = 0.25  # trial: what moves by less within the window, and is straightened, has one pitch to tell
GAP_S = 0.06  # trial: a shorter silence breaks no course
BORNE_S, BORNE_CYCLES = 0.25, 24.0  # theory: so long a stretch parts the harmonics from what lies between
NEAR, LOBE_BINS = 0.04, 3.0  # theory: of a harmonic's number; bins that a Blackman-Harris window spreads over

# The window
LONGEST_S = 1.0  # trial: longer passages say no more, and cost more
LEAST_MOVED_CENTS = 2.0  # trial: a pitch that moves less has partials as sharp as one that stands
MARGIN_S = 0.006  # trial: a break is seen so far around it
LEAST_PITCHED = 0.5  # trial: of the time
SAME_NOTE_ST = 0.5  # theory: nearer to another note, it is that one
LEAST_STANDING_S, SAME_SHARE = 0.4, 5e-4  # trial: two halves of at least so long; less than a cent apart
EDGE_WINDOWS = 0.6  # theory: of a look: more than half of one from another note, a held one is alone in it

# What the partials form
CLEARLY = 0.9  # trial: clarity of a repetition that is heard as a pitch
UNISON_HZ, UNISON_SHARE = 1.2, 0.012  # trial: tones that nearly agree, as of a detuned pair
STRONG_FIRST, FIRST_SHARE = 0.1, 0.02  # trial: of the strongest's weight; so near to the fundamental
BLUR_BINS = 0.4  # trial: of a bin: as far as a partial seems shifted whose level moves
SWUNG_HZ, SWUNG_SHARE = 5.0, 0.08  # trial: how far swings spread the partials of one tone
PARTS, BLURRED = 12, 0.02  # trial: parts of a passage, and by how much of their mean they differ
UNEXPLAINED, COMBED = 0.6, 0.8  # trial: share of the power at partials, and around the multiples of a fundamental

# What is sure
SURELY, WIDE_CENTS = 0.99, 60.0  # trial: clarity of a straightened vibrato; so wide a one blurs what is formed
TONAL, NOISY, CROWDED_NOISY = 0.6, 0.15, 0.6  # trial: share of tone in the power; where harmonics stand close, more
HALF = 0.5  # theory: of the power: where noise has more, a pitch beneath it is not sure
SLOW_HZ = 16.0  # ear: slower, nobody hears a pitch (a melody needs 30 Hz: Pressnitzer, Patterson and Krumbholz 2001)
SLOW_CLEARLY, SLOW_OFF_HZ = 0.95, 0.4  # trial: clarity, and how far its partials may be from multiples
BLURRED_HZ = 6.0  # theory: so near to one another, partials of a second's look are not told apart
LEAST_SLOW_PARTIALS = 8  # trial: a slow wave has many

# Swings
TURNS, LONGEST_PARTED_S = 3.0, 4.0  # theory: three beats part two tones by three bins
SAME_RATE = 0.05  # trial: two ways to measure a swing found the same one

# The notes that are held
LOWEST_HZ = 30.0  # ear: the lowest note of a melody (see SLOW_HZ); lower, what swings is easily taken for one
MULTIPLE_SHARE, UNHEARD_DB = 0.03, 30.0  # trial: half a semitone; so faint a partial is no note of its own
WITHIN = 0.25  # trial: of the window: so much of a note within it counts
MOST_CHECKED = 6  # trial: more notes than one reads are not checked one by one
OUTERMOST = (5.0, 95.0)  # percent: what is outside is a slip of the track
