# Numbers inside sentences.

# .812, -.051: three decimals, no leading zero, for sentences.
coefficient_text <- function(x, digits = 3) {
  text <- formatC(x, format = "f", digits = digits)
  text <- sub("^-(0(\\.0*)?)$", "\\1", text)
  sub("^(-?)0\\.", "\\1.", ifelse(is.na(x), "not available", text))
}

# 3, 2.5: as many decimals as there are; nothing for NA.
format_plain <- function(x) vapply(x, function(v) if (is.na(v)) "" else format(v, digits = 6), "", USE.NAMES = FALSE)

# .70, .708, 5: at least two decimals under one, no leading zero.
bound_text <- function(x) {
  if (abs(x) >= 1) {
    return(format(x))
  }
  text <- formatC(x, format = "f", digits = 3)
  sub("^(-?)0\\.", "\\1.", sub("([.,]\\d\\d)0$", "\\1", text))
}

format_answer <- function(x) format(x, trim = TRUE, digits = 6, drop0trailing = TRUE)
