# Makes the demo data in inst/extdata/. Everything here is invented: the
# gardeners, the statements, the quiz. Run from the project's root:
#   Rscript data-raw/make-demo-data.R

set.seed(20260725, kind = "Mersenne-Twister", normal.kind = "Inversion", sample.kind = "Rejection")
folder <- "inst/extdata"

item <- function(item, scale, direction, loading, wording) {
  data.frame(item, wording, scale, direction, loading)
}

# plotholders: what an allotment does for those who tend it ------------------

statements <- rbind(
  item("calm1", "calm", "forward", .78, "After an hour on my plot I feel settled."),
  item("calm2", "calm", "forward", .72, "On the plot I stop thinking about work."),
  item("calm3", "calm", "reversed", .64, "I often come home from the plot more tense than I went."),
  item("calm4", "calm", "forward", .68, "Being on my plot slows me down."),
  item("calm5", "calm", "reversed", .60, "On the plot I go on worrying about everything else."),
  item("calm6", "calm", "forward", .04, "I prefer to be on the plot in the morning."),
  item("craft1", "craft", "forward", .74, "I can tell what a plant lacks by looking at it."),
  item("craft2", "craft", "forward", .66, "I get better at growing things every year."),
  item("craft3", "craft", "reversed", .68, "Without the packet's instructions I would not know how to sow."),
  item("craft4", "craft", "forward", .58, "Other gardeners ask me how to do things."),
  item("craft5", "craft", "forward", .70, "I am good at raising plants from seed."),
  item("craft6", "craft", "forward", .69, "Raising plants from seed is something I do well."),
  item("kin1", "kinship", "forward", .70, "I know the people on the plots around mine by name."),
  item("kin2", "kinship", "forward", .76, "We lend each other tools and time."),
  item("kin3", "kinship", "reversed", .63, "I keep to myself on the site."),
  item("kin4", "kinship", "forward", .68, "Someone would notice if I stopped coming."),
  item("kin5", "kinship", "forward", .46, "My neighbours taught me most of what I can do."),
  item("soil1", "stewardship", "forward", .73, "I feel responsible for the soil I leave behind."),
  item("soil2", "stewardship", "forward", .67, "I leave a corner wild for insects."),
  item("soil3", "stewardship", "reversed", .61, "I use whatever spray works fastest."),
  item("soil4", "stewardship", "forward", .64, "I collect rainwater even when it is a nuisance."),
  item("soil5", "stewardship", "forward", .62, "I compost nearly everything that can be composted.")
)
scales <- unique(statements$scale)
factor_r <- matrix(c(
  1, .32, .40, .45,
  .32, 1, .30, .48,
  .40, .30, 1, .34,
  .45, .48, .34, 1
), 4, dimnames = list(scales, scales))
second_loading <- c(kin5 = .36) # on craft: it loads on two subscales

# Latent answers of n people; `trait` can be given, for a second wave.
latent_answers <- function(trait) {
  n <- nrow(trait)
  own <- trait[, statements$scale] * rep(statements$loading, each = n)
  own[, statements$item == "kin5"] <- own[, statements$item == "kin5"] +
    second_loading[["kin5"]] * trait[, "craft"]
  left <- sqrt(1 - statements$loading^2)
  left[statements$item == "kin5"] <- sqrt(1 - .46^2 - .36^2 - 2 * .46 * .36 * .30)
  error <- matrix(rnorm(n * nrow(statements)), n)
  twin <- match(c("craft5", "craft6"), statements$item) # the near-identical pair
  error[, twin] <- sqrt(.6) * error[, twin] + sqrt(.4) * rnorm(n)
  own + error * rep(left, each = n)
}

# Cuts that put the middle of the answers a little above the middle option.
easiness <- seq(-.5, .5, length.out = nrow(statements))[sample(nrow(statements))]
to_options <- function(latent, shift) {
  cuts <- c(-1.7, -.8, .1, 1.1)
  answers <- vapply(seq_len(ncol(latent)), function(j) {
    findInterval(latent[, j] + shift[, j], cuts) + 1L
  }, integer(nrow(latent)))
  reversed <- statements$direction == "reversed"
  answers[, reversed] <- 6L - answers[, reversed]
  colnames(answers) <- statements$item
  answers
}

# Composting is collected by the council in the south: the item is endorsed
# less there at the same stewardship.
shift_for <- function(district) {
  shift <- matrix(easiness, length(district), nrow(statements), byrow = TRUE)
  compost <- which(statements$item == "soil5")
  shift[district == "south", compost] <- shift[district == "south", compost] - .9
  shift
}

put_missing <- function(answers, rate) {
  n <- nrow(answers)
  patience <- rgamma(n, .25) / .25 # a few people skip much, most skip nothing
  skipped <- matrix(runif(length(answers)) < pmin(.6, rate * .85 * patience), n)
  answers[skipped] <- -9L
  unseen <- runif(n) < rate * .25 * 22 / 5 # the last page never shown
  answers[unseen, statements$scale == "stewardship"] <- -8L
  answers
}

people <- 640
id <- sprintf("P%03d", sample(999, people))
district <- sample(c("north", "south"), people, replace = TRUE, prob = c(.55, .45))
trait <- matrix(rnorm(people * 4), people) %*% chol(factor_r)
colnames(trait) <- scales
trait[district == "south", "kinship"] <- trait[district == "south", "kinship"] + .25
first <- to_options(latent_answers(trait), shift_for(district))
seconds <- round(rlnorm(people, log(190), .30))

careless <- sort(sample(people, 12))
for (i in careless[1:6]) first[i, ] <- sample(2:5, 1)
for (i in careless[7:12]) first[i, ] <- sample(5L, ncol(first), replace = TRUE)
seconds[careless] <- round(runif(12, 25, 60))
first <- put_missing(first, .04)
first[careless, ] <- pmax(first[careless, ], 1L)

again <- sort(sample(setdiff(seq_len(people), careless), 400))
later_trait <- .75 * trait[again, ] + sqrt(1 - .75^2) * matrix(rnorm(400 * 4), 400) %*% chol(factor_r)
later_trait[, "craft"] <- later_trait[, "craft"] + .30 # a season's learning
second <- put_missing(to_options(latent_answers(later_trait), shift_for(district[again])), .04)

wave1 <- data.frame(id, district, wave = 1L, seconds, first)
wave2 <- data.frame(
  id = id[again], district = district[again], wave = 2L,
  seconds = round(rlnorm(400, log(170), .30)), second
)

codebook <- data.frame(
  item = statements$item, wording = statements$wording, scale = statements$scale,
  direction = statements$direction, lowest = 1L, highest = 5L,
  role = "scored", missing = "skipped:-9 unseen:-8"
)
draft <- codebook
draft$direction[draft$item == "kin3"] <- "forward" # the forgotten reversal

write <- function(x, name) {
  utils::write.csv(x, file.path(folder, name), row.names = FALSE, quote = text_to_quote(x))
}
# Quote text only where a comma would break it.
text_to_quote <- function(x) {
  which(vapply(x, function(column) any(grepl("[,\"]", column)), logical(1)))
}
write(wave1, "plotholders.csv")
write(wave2, "plotholders-wave2.csv")
write(codebook, "plotholders-codebook.csv")
write(draft, "plotholders-draft-codebook.csv")

# plantcare: a quiz of sixteen questions, four options each ------------------

question <- function(item, answer, easiness, slope, wording) {
  data.frame(item, wording, answer, easiness, slope)
}
questions <- rbind(
  question("q01", "B", 1.6, 1.2, "When is the best time of day to water in summer?"),
  question("q02", "D", 0.9, 1.4, "Which of these plants fixes nitrogen?"),
  question("q03", "A", 0.4, 1.1, "What do yellow leaves with green veins usually mean?"),
  question("q04", "C", 1.2, 0.9, "Which of these is sown directly outdoors?"),
  question("q05", "B", -0.2, 1.5, "What does hardening off prepare a seedling for?"),
  question("q06", "A", 0.7, 1.3, "Which crop should not follow cabbage?"),
  question("q07", "D", -0.8, 1.2, "At what soil temperature do runner beans germinate?"),
  question("q08", "C", 0.1, 1.6, "Which part of a tomato plant is pinched out?"),
  question("q09", "A", 1.0, 1.0, "What is green manure?"),
  question("q10", "B", 0.4, 1.2, "Which pest makes tunnels in leek leaves?"),
  question("q11", "C", 0.6, 1.2, "What does liming do to the soil?"),
  question("q12", "D", -1.1, 1.1, "Which apple flowers earliest?"),
  question("q13", "B", 0.3, 1.3, "How deep is garlic planted?"),
  question("q14", "A", 0.2, 1.2, "Which mulch lowers the soil's nitrogen at first?"),
  question("q15", "C", 0.8, 0.3, "Which bird eats most slugs?"),
  question("q16", "B", -0.3, 0.9, "Which of these seeds needs a frost?")
)
takers <- 500
skill <- rnorm(takers)
quiz_district <- sample(c("north", "south"), takers, replace = TRUE)
options <- c("A", "B", "C", "D")
answers <- vapply(seq_len(nrow(questions)), function(j) {
  bias <- if (questions$item[j] == "q10") ifelse(quiz_district == "south", -1.8, 0) else 0
  right <- runif(takers) < .1 + .9 * plogis(1.6 * questions$slope[j] * (skill + questions$easiness[j]) + bias)
  wrong <- setdiff(options, questions$answer[j])
  weight <- c(.5, .33, .17)[sample(3)]
  answer <- ifelse(right, questions$answer[j], sample(wrong, takers, replace = TRUE, prob = weight))
  ifelse(runif(takers) < .02 + .02 * (j > 12), "", answer)
}, character(takers))
colnames(answers) <- questions$item
quiz <- data.frame(id = sprintf("Q%03d", seq_len(takers)), district = quiz_district, answers)
quiz_codebook <- data.frame(
  item = questions$item, wording = questions$wording, scale = "plantcare",
  answer = questions$answer, options = "A B C D",
  role = ifelse(questions$item %in% c("q15", "q16"), "tryout", "scored"), missing = "skipped:blank"
)
quiz_codebook$answer[quiz_codebook$item == "q08"] <- "A" # the wrong key
write(quiz, "plantcare.csv")
write(quiz_codebook, "plantcare-codebook.csv")
