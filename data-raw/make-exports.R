# Three exports as they come from survey platforms and archives, all invented, for the tests:
#   platform.csv  two rows of headers, answers in words, in two languages and mixed case
#   panel.sav     three waves side by side, with value labels and user-missing codes
#   pilot.csv     58 people, 34 items, semicolons and decimal commas, totals among the items
# Run from the project's root: Rscript data-raw/make-exports.R FOLDER

# Answers from 1 to `steps` of people with these traits: one column an item.
cut_answers <- function(trait, loadings, steps) {
  noise <- matrix(stats::rnorm(length(trait) * length(loadings)), length(trait))
  latent <- outer(trait, loadings) + noise * rep(sqrt(1 - loadings^2), each = length(trait))
  apply(latent, 2, function(x) findInterval(x, stats::qnorm(seq_len(steps - 1) / steps)) + 1)
}

traits <- function(n, r, size) {
  matrix(stats::rnorm(n * size), n) %*% chol(diag(1 - r, size) + r)
}

make_platform <- function(folder, n = 420) {
  english <- c("Strongly disagree", "Disagree", "Somewhat disagree", "Neither agree nor disagree", "Somewhat agree", "Agree", "Strongly agree")
  german <- c("Stimme \u00fcberhaupt nicht zu", "Stimme nicht zu", "Stimme eher nicht zu", "Teils/teils", "Stimme eher zu", "Stimme zu",
    "Stimme voll und ganz zu")
  asked <- list(
    Q4 = c("I look forward to my shift.", "My work gives me energy.", "I would choose this ward again.", "Time passes quickly at work.",
      "I often count the hours until the end.", "I am proud of what we do."),
    Q5 = c("Colleagues step in when I am behind.", "I can ask anyone here.", "Handovers are done with care.", "We speak openly about mistakes.",
      "I am on my own with difficult decisions.", "New people are made welcome."),
    Q6 = c("The rota respects what I asked for.", "Breaks happen when they should.", "I know a week ahead when I work.",
      "Overtime is shared fairly.", "Changes come at the last minute.")
  )
  stem <- "How much do you agree with these statements about the ward?"
  reversed <- c("Q4_5", "Q5_5", "Q6_5")
  language <- sample(c("EN", "DE"), n, TRUE, c(.7, .3))
  trait <- traits(n, .4, 3)
  level <- do.call(cbind, lapply(1:3, function(k) {
    size <- length(asked[[k]])
    out <- cut_answers(trait[, k], seq(.8, .6, length.out = size), 7)
    colnames(out) <- paste0("Q", k + 3, "_", seq_len(size))
    out
  }))
  level[, reversed] <- 8 - level[, reversed]
  words <- apply(level, 2, function(x) ifelse(language == "EN", english[x], german[x]))
  odd <- matrix(stats::runif(length(words)) < .04, n)
  words[odd] <- toupper(words[odd])
  words[matrix(stats::runif(length(words)) < .03, n)] <- ""
  words[sample(length(words), 20)] <- "Prefer not to say"
  ready <- sample(0:10, n, TRUE)
  ticked <- function(word) ifelse(stats::runif(n) < .4, word, "")
  start <- as.POSIXct("2026-03-02 06:00:00", tz = "UTC") + sort(sample(14 * 86400, n))
  data <- data.frame(
    StartDate = format(start), EndDate = format(start + 400), Status = rep(c("Preview", "Response"), c(4, n - 4)),
    IPAddress = "10.0.0.1", Duration = sample(150:900, n, TRUE), Finished = "True",
    ResponseId = sprintf("R_%06d", sample(1e6 - 1, n)), UserLanguage = language, Q1 = "I agree to take part",
    Q2 = sample(c("Female", "female", "FEMALE ", "Male", "male", "Diverse"), n, TRUE, c(.4, .1, .05, .3, .1, .05)), Q3 = sample(19:64, n, TRUE),
      words,
    Q7 = ifelse(ready == 0, "0 \u2013 not at all", ifelse(ready == 10, "10 completely", ready)),
    Q8_1 = ticked("Night shifts"), Q8_2 = ticked("Weekends"), Q8_3 = ticked("On call"), Q8_4 = ticked("None"),
    Q9 = ifelse(stats::runif(n) < .2, paste("More staff at night, please.", seq_len(n)), ""), check.names = FALSE
  )
  said <- c("Start Date", "End Date", "Response Type", "IP Address", "Duration (in seconds)", "Finished", "Response ID", "User Language",
    "Do you agree to take part?", "You are ...", "How old are you?", paste(stem, "-", unlist(asked)), "How ready are you to recommend the ward?",
    paste("Which of these apply to you? -", c("Night shifts", "Weekends", "On call", "None")), "Anything else?")
  path <- file.path(folder, "platform.csv")
  write_rows(rbind(names(data), said, as.matrix(data)), path, ",")
  path
}

write_rows <- function(rows, path, separator) {
  file <- file(path, "w", encoding = "UTF-8")
  on.exit(close(file))
  utils::write.table(rows, file, sep = separator, row.names = FALSE, col.names = FALSE, qmethod = "double", na = "")
}

make_panel <- function(folder, n = 260) {
  labels <- c("not at all" = 1, "a little" = 2, "somewhat" = 3, "quite a bit" = 4, "very much" = 5)
  wording <- list(
    rest = c("I slept through the night.", "I woke up rested.", "I lay awake for long.", "I could rest during the day.", "My sleep was good."),
    load = c("Too much was asked of me.", "I had to hurry.", "I was interrupted.", "I had time for what matters.", "I took work home.")
  )
  person <- traits(n, -.4, 2)
  data <- data.frame(code = sprintf("%05d", sample(99999, n)), site = sample(c("Mill", "Yard"), n, TRUE), born = sample(1960:2005, n, TRUE))
  for (wave in 1:3) {
    now <- sqrt(.6) * person + sqrt(.4) * traits(n, -.2, 2) + cbind(rep(.2 * (wave - 1), n), 0)
    gone <- sample(n, 30 * (wave - 1))
    for (k in 1:2) {
      answers <- cut_answers(now[, k], c(.8, .75, .65, .6, .7), 5)
      turn <- if (k == 1) 3 else 4
      answers[, turn] <- 6 - answers[, turn]
      answers[matrix(stats::runif(length(answers)) < .02, n)] <- -9
      answers[gone, ] <- NA
      for (j in 1:5) {
        name <- paste0(names(wording)[k], j, "_t", wave)
        data[[name]] <- haven::labelled_spss(answers[, j], labels, na_values = -9, label = wording[[k]][j])
      }
    }
  }
  path <- file.path(folder, "panel.sav")
  haven::write_sav(data, path)
  path
}

make_pilot <- function(folder, n = 58) {
  size <- c(plan = 8, focus = 8, mood = 6, body = 6, help = 6)
  trait <- traits(n, .35, 5)
  answers <- do.call(cbind, lapply(1:5, function(k) {
    out <- cut_answers(trait[, k], rep_len(c(.8, .7, .75, .65), size[[k]]), 5)
    out[, 3] <- 6 - out[, 3]
    colnames(out) <- paste0(names(size)[k], seq_len(size[[k]]))
    out
  }))
  keyed <- answers
  keyed[, paste0(names(size), 3)] <- 6 - keyed[, paste0(names(size), 3)]
  own <- function(name) keyed[, paste0(name, seq_len(size[[name]]))]
  answers[matrix(stats::runif(length(answers)) < .01, n)] <- NA
  data <- data.frame(nr = seq_len(n), date = format(as.Date("2026-05-04") + sample(20, n, TRUE)), sex = sample(c("f", "m"), n, TRUE), answers,
    mood_sum = rowSums(own("mood")), body_mean = rowMeans(own("body")), pace = sample(seq(1, 5, .5), n, TRUE))
  text <- lapply(data, function(x) if (is.numeric(x)) sub(".", ",", format(x, trim = TRUE, digits = 4, drop0trailing = TRUE), fixed = TRUE) else x)
  text <- lapply(text, function(x) ifelse(x == "NA", "", x))
  path <- file.path(folder, "pilot.csv")
  write_rows(rbind(names(data), do.call(cbind, text)), path, ";")
  path
}

make_exports <- function(folder) {
  set.seed(20261126, kind = "Mersenne-Twister", normal.kind = "Inversion", sample.kind = "Rejection")
  c(platform = make_platform(folder), panel = make_panel(folder), pilot = make_pilot(folder))
}

folder <- commandArgs(TRUE)
if (sys.nframe() == 0 && length(folder) == 1) print(make_exports(folder))
