# Reversal: what a reversed item's answer counts as, here and nowhere else. Test items are scored by their right
# answer and cannot be reversed.

is_turned <- function(specs) specs$direction %in% "reversed" & is.na(specs$answer)

# An answer and its opposite add up to this.
turn_sum <- function(specs) specs$lowest + specs$highest

turn_round <- function(values, specs) turn_sum(specs) - values

# How chosen items are keyed: list(shift, sign), keyed = shift + sign x as given.
keying_of <- function(survey, items) {
  specs <- item_spec(survey, items)
  turned <- is_turned(specs)
  list(shift = ifelse(turned, turn_sum(specs), 0), sign = ifelse(turned, -1, 1))
}

# The other way, as codebooks write it.
other_direction <- function(direction) ifelse(direction == "forward", "reversed", "forward")
