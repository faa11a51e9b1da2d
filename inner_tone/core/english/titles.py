"""What a step is called that nobody has given a title."""

TITLES = {
    "first": "First step",
    "new": "New step",
    "behind": "{module} behind {before}",
    "comes-in": "{module} comes in",
    "doubled": "{module} doubled",
    "drives": "{source} drives {target}",
    "follows": "{target} follows {source}",
    "how-far": "How far {module} moves",
    "instead": "{module} instead",
    "into": "{source} into {target}",
    "moves": "{source} moves {target}’s {port}",
    "named": "{module} gets its name",
    "opens": "{source} opens {target}",
    "parted-from": "{source} parted from {target}",
    "set": "{module}’s {setting}: {value}",
    "taken-out": "{module} taken out",
}
