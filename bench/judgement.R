# How often is what is said right? Draws samples from populations whose truth is known, and counts what verdicts and headlines say.
# Each cell is written to inst/tables/judgement.csv as soon as it is done, and a cell that stands there is not done again: stop and
# go on at will. Seeded; 1,000 samples a cell, fewer where a verb takes long (column `samples`) or the environment says SAMPLES=40. The vignette
# "How far to trust what is said" shows the table.
#
#   Rscript bench/judgement.R [CORES [PART ...]]

library(scalewort)
core <- function(name) getFromNamespace(name, "scalewort")
asked <- commandArgs(TRUE)
cores <- if (length(asked) > 0) as.integer(asked[1]) else 1L
parts <- if (length(asked) > 1) asked[-1] else
  c("first page", "confirm", "retention", "keying", "careless", "bias", "invariance", "intervals", "gaps", "fit with gaps")
file <- "inst/tables/judgement.csv"
columns <- c("part", "population", "answers", "n", "samples", "says", "share")
done <- if (file.exists(file)) utils::read.csv(file, colClasses = "character") else stats::setNames(data.frame(matrix("", 0, 7)), columns)

# One cell: one(i) gives a named vector of TRUE and FALSE (or of shares), or NULL where a sample gives nothing.
cell <- function(part, population, answers, n, one, samples = 1000) {
  if (!part %in% parts) return(invisible())
  there <- done$part == part & done$population == population & done$answers == answers & done$n == n
  if (any(there)) return(invisible())
  samples <- min(samples, as.integer(Sys.getenv("SAMPLES", samples)))
  found <- parallel::mclapply(seq_len(samples), function(i) {
    set.seed(i)
    tryCatch(one(i), error = function(e) NULL)
  }, mc.cores = cores)
  found <- do.call(rbind, found)
  if (is.null(found)) return(invisible())
  rows <- data.frame(part, population, answers, n, nrow(found), colnames(found), sprintf("%.3f", colMeans(found, na.rm = TRUE)))
  names(rows) <- columns
  utils::write.table(rows, file, sep = ",", row.names = FALSE, col.names = !file.exists(file), append = file.exists(file), qmethod = "double")
  cat(part, population, answers, n, "\n")
}

cuts <- list(five = c(-1.5, -.5, .5, 1.5), `three, skewed` = c(.5, 1.3), `0/1` = .5)
three <- sw_structure(a = paste0("a", 1:5), b = paste0("b", 1:5), c = paste0("c", 1:5))
items <- unlist(three$factors, use.names = FALSE)
correlated <- function(structure, loading, r) {
  at <- core("structure_truth")(structure, loading, r, .7)
  dimnames(at$covariance) <- list(at$items, at$items)
  at$covariance
}
draw <- function(s, n, answers) {
  x <- matrix(rnorm(n * ncol(s)), n) %*% chol(s)
  colnames(x) <- colnames(s)
  if (answers != "normal") x[] <- findInterval(x, cuts[[answers]]) + 1
  x
}
as_survey <- function(x, scale = substr(colnames(x), 1, 1), reversed = character(), group = NULL) {
  range <- if (all(x == round(x), na.rm = TRUE)) c(1, max(x, na.rm = TRUE)) else c(-99, 99)
  data <- as.data.frame(x)
  data$group <- group
  sw_survey(data, data.frame(item = colnames(x), scale = scale, lowest = range[1], highest = range[2],
    direction = ifelse(colnames(x) %in% reversed, "reversed", "forward")))
}

# Confirmation: three factors of five items, loadings .6, correlations .3.
truth <- correlated(three, .6, .3)
symmetric <- function(s) {
  s[upper.tri(s)] <- t(s)[upper.tri(s)]
  s
}
populations <- list(
  true = truth,
  `pair .25` = symmetric({s <- truth; s["a2", "a1"] <- s["a2", "a1"] + .25 * .64; s}),
  `crossing .30` = symmetric({s <- truth; s[6:10, "a1"] <- s[6:10, "a1"] + .30 * .6 * .91; s}),
  `twins .94` = local({s <- correlated(three, .6, .3); s[6:10, 1:5] <- .36 * .94; symmetric(s)}),
  `item of .02` = local({l <- rep(.6, 15); l[5] <- .02; s <- correlated(three, .6, .3) * outer(l / .6, l / .6); diag(s) <- 1; s})
)
fitted <- list(`two as one` = sw_structure(ab = c(three$factors$a, three$factors$b), c = three$factors$c))
right <- c(`pair .25` = "a1 and a2", `crossing .30` = "a1 and b")
said_of <- function(x) {
  fit <- x$tables$fit
  indices <- fit$verdict[fit$figure %in% c("cfi", "rmsea", "srmr")]
  readings <- x$tables$readings
  links <- x$tables$factor_correlations
  loadings <- x$tables$loadings
  c(usable = x$about$status == "ok", `does not fit` = any(indices %in% "missed"), open = any(indices %in% "near") && !any(indices %in% "missed"),
    `exact fit rejected` = any(core("rejected_fit")(fit)), `something named` = NROW(readings) > 0,
    `twins named` = any(links$verdict %in% "missed"), `a good item accused` = any(loadings$verdict %in% "missed" & loadings$item != "a5"),
    `a5 accused` = any(loadings$verdict %in% "missed" & loadings$item == "a5"))
}
for (n in c(200, 500, 100, 50)) {
  for (name in names(populations)) {
    cell("confirm", name, "five", n, function(i) {
      x <- sw_confirm(sw_moments(draw(populations[[name]], n, "five")), three)
      first <- if (NROW(x$tables$readings) > 0) x$tables$readings$name[1] else ""
      c(said_of(x), `the right one first` = if (name %in% names(right)) first == right[[name]] else NA)
    })
  }
  cell("confirm", "two as one, r .60", "five", n, function(i) {
    s <- truth
    s[6:10, 1:5] <- s[1:5, 6:10] <- .36 * .6
    x <- sw_confirm(sw_moments(draw(s, n, "five")), fitted[[1]])
    c(said_of(x), `the right one first` = NROW(x$tables$readings) > 0 && x$tables$readings$reading[1] == "split")
  })
}

# How many factors: 1, 3, 5 factors of 4, 8 or 12 items, loadings .4, .6, .8, correlations 0, .3, .6, drawn at random.
for (answers in c("five", "three, skewed")) for (pair in c("no pair", "a pair of .40")) for (n in c(100, 250, 500, 1000)) {
  cell("retention", pair, answers, n, function(i) {
    m <- sample(c(1, 3, 5), 1)
    k <- sample(c(4, 8, 12), 1)
    if (n < 1.5 * m * k) return(NULL)
    structure <- do.call(sw_structure, stats::setNames(lapply(seq_len(m), function(f) paste0(letters[f], seq_len(k))), letters[seq_len(m)]))
    loading <- sample(c(.4, .6, .8), 1)
    s <- correlated(structure, loading, if (m == 1) 0 else sample(c(0, .3, .6), 1))
    if (pair != "no pair") s["a1", "a2"] <- s["a2", "a1"] <- s["a1", "a2"] + .40 * (1 - loading^2)
    x <- sw_retention(sw_moments(draw(s, n, answers)), replicates = 100, most = 1)
    of <- function(rule) x$tables$rules$suggestion[match(rule, x$tables$rules$rule)]
    found <- x$parts$agreement
    # With four items no more than one factor can be tested.
    agree <- is.na(found$second)
    c(right = found$first == m, agree = agree, `right where they agree` = if (agree) found$first == m else NA,
      `one of the two right` = if (agree) NA else m %in% c(found$first, found$second),
      `parallel analysis, common` = of("parallel analysis, common") == m, `empirical Kaiser` = of("empirical Kaiser") == m,
      `parallel analysis, components` = of("parallel analysis, components") == m, `average partial` = of("average partial") == m,
      `eigenvalues above 1` = of("eigenvalues above 1") == m, `bend of the scree` = of("bend of the scree") == m)
  })
}

# Keying: six items, none or two of them unreversed.
six <- sw_structure(s = paste0("s", 1:6))
for (loading in c(.4, .6)) for (turned in c(0, 2)) for (n in c(50, 100, 300)) {
  cell("keying", paste0("loadings ", loading, ", ", turned, " unreversed"), "five", n, function(i) {
    x <- draw(correlated(six, loading, 0), n, "five")
    bad <- paste0("s", seq_len(turned), recycle0 = TRUE)
    x[, bad] <- 6 - x[, bad]
    said <- sw_keying(as_survey(x))$tables$items
    c(`a good item accused` = any(said$agrees == "no" & !said$item %in% bad),
      found = if (turned > 0) mean(said$agrees[said$item %in% bad] == "no") else NA)
  })
}

# Careless answering: 400 people, 5% in straight lines with slips, 5% at random; shares of people.
for (layout in c("3 x 5", "5 x 8")) {
  size <- as.integer(strsplit(layout, " x ")[[1]])
  structure <- do.call(sw_structure, stats::setNames(lapply(seq_len(size[1]), function(f) paste0(letters[f], seq_len(size[2]))),
    letters[seq_len(size[1])]))
  cell("careless", paste(layout, "items"), "five", 400, function(i) {
    s <- correlated(structure, .6, .3)
    x <- draw(s, 400, "five")
    back <- unlist(lapply(letters[seq_len(size[1])], paste0, 1:2))
    x[, back] <- 6 - x[, back]
    kind <- rep(c("careful", "straight", "random"), c(360, 20, 20))
    pages <- substr(colnames(x), 1, 1)
    lines <- matrix(sample(1:5, 20 * size[1], TRUE), 20)[, match(pages, letters)]
    slip <- matrix(sample(c(0, -1, 1), length(lines), TRUE, c(.92, .04, .04)), 20)
    x[kind == "straight", ] <- pmin(pmax(lines + slip, 1), 5)
    x[kind == "random", ] <- sample(1:5, 20 * ncol(x), TRUE)
    found <- sw_answering(as_survey(x, reversed = back))$parts
    named <- found$straight | found$random
    c(`straight found` = mean(named[kind == "straight"]), `random found` = mean(named[kind == "random"]),
      `careful among the named` = if (any(named)) mean(kind[named] == "careful") else 0)
  }, samples = 200)
  for (n in c(60, 250, 600)) cell("careless", paste(layout, "items, everybody careful"), "five", n, function(i) {
    found <- sw_answering(as_survey(draw(correlated(structure, .6, .3), n, "five")))$parts
    c(`anybody named` = any(found$straight | found$random))
  }, samples = 200)
}

# Bias: eight items, one of them harder for one group by .5 standard deviations, or none.
eight <- sw_structure(s = paste0("s", 1:8))
for (shift in c(0, .5)) for (n in c(100, 400, 1000)) {
  cell("bias", if (shift == 0) "no item differs" else "s1 differs by .50", "five", n, function(i) {
    group <- rep(c("x", "y"), n / 2)
    z <- matrix(rnorm(n * 8), n) %*% chol(correlated(eight, .6, 0))
    z[, 1] <- z[, 1] - shift * (group == "y")
    x <- z
    x[] <- findInterval(z, cuts$five) + 1
    colnames(x) <- paste0("s", 1:8)
    said <- sw_dif(as_survey(x, group = group), by = "group")$tables$items
    c(`a fair item accused` = any(said$flagged[if (shift > 0) -1 else TRUE]), found = if (shift > 0) said$flagged[1] else NA,
      `says it is no finding` = !any(said$flagged) && stats::median(said$power, na.rm = TRUE) < .8)
  }, samples = 300)
}

# Invariance over two groups: two factors of four items; all equal, one intercept shifted by .5, or a structure that does not fit.
two <- sw_structure(a = paste0("a", 1:4), b = paste0("b", 1:4))
for (population in c("all equal", "one intercept", "wrong structure")) for (n in c(200, 600)) {
  cell("invariance", population, "normal", n, function(i) {
    x <- draw(correlated(two, .7, .3), n, "normal")
    group <- rep(c("x", "y"), n / 2)
    if (population == "one intercept") x[group == "y", "a1"] <- x[group == "y", "a1"] + .5
    structure <- if (population == "wrong structure") sw_structure(all = unlist(two$factors)) else two
    found <- sw_invariance(as_survey(x, group = group), structure, by = "group", estimator = "ml")$tables
    steps <- found$steps
    named <- if (any(steps$verdict[-1] == "missed")) found$named$item
    c(`first step fails` = steps$verdict[1] == "missed", `loadings fail` = steps$verdict[2] == "missed",
      `intercepts fail` = steps$verdict[3] == "missed",
      `intercepts open` = steps$verdict[3] == "near", `a1 named` = "a1" %in% named,
      `another item named` = any(setdiff(two$factors |> unlist(), "a1") %in% named))
  }, samples = 300)
}

# The first page of a whole report: is anybody, any item, pair or subscale named where nothing is wrong, and what is wrong where something is?
# Loadings .55 to .80, correlations .3, 3% gaps, one reversed item a subscale, two groups; 0/1 answers in subscales of eight items, since five make
# a score whose alpha is surely too low.
page_survey <- function(i, n, sizes, answers, gaps = .03, share = .5, plant = "nothing") {
  at <- list(five = cuts$five, `skewed five` = c(.3, .8, 1.3, 1.8), `0/1` = .2)[[answers]]
  structure <- do.call(sw_structure, stats::setNames(Map(paste0, letters[seq_along(sizes)], lapply(sizes, seq_len)), letters[seq_along(sizes)]))
  home <- rep(seq_along(sizes), sizes)
  loading <- stats::runif(length(home), .55, .80)
  r <- if (plant == "two as one") .97 else .3
  s <- outer(loading, loading) * ifelse(outer(home, home, "=="), 1, ifelse(outer(home, home, pmax) < 3, r, .3))
  diag(s) <- 1
  if (plant == "pair") s[1, 3] <- s[3, 1] <- s[1, 3] + .2
  colnames(s) <- unlist(structure$factors)
  x <- matrix(stats::rnorm(n * ncol(s)), n) %*% chol(s)
  colnames(x) <- colnames(s)
  group <- sample(c("north", "south"), n, TRUE, c(share, 1 - share))
  if (plant == "intercept") x[group == "south", "b3"] <- x[group == "south", "b3"] + .5
  if (plant == "stray item") x[, "a4"] <- sample(x[, "a4"])
  x[] <- findInterval(x, at) + 1
  back <- paste0(letters[seq_along(sizes)], 2)
  x[, back] <- length(at) + 2 - x[, back]
  x[stats::runif(length(x)) < gaps] <- NA
  scale <- substr(colnames(x), 1, 1)
  if (plant == "misplaced item") scale[colnames(x) == "a4"] <- "b"
  survey <- as_survey(x, paste0("scale_", scale), back, group)
  survey$group <- "group"
  survey
}
named_on_page <- function(survey) {
  results <- core("whole_path")(survey)
  analyses <- Filter(function(x) inherits(x, "sw_result"), results)
  words <- core("report_words")("en")
  table <- core("front_subscales")(analyses, words)
  know <- vapply(core("front_know")(results$survey, analyses), core("say"), "", language = "en")
  text <- paste(c(unlist(table[-(1:3)]), core("front_decisions")(results$survey, analyses, words), know), collapse = " ")
  items <- survey$codebook$items$item
  words_in <- unlist(regmatches(text, gregexpr("[A-Za-z_]+[0-9]*", text)))
  subscales <- unique(survey$codebook$items$scale)
  not_yet <- subscales[grepl("^not yet", table[[length(table)]])]
  list(what = c(intersect(items, words_in), not_yet), people = length(results$answering$parts$flagged_rows) > 0)
}
pages <- list(
  list("nothing, 3 x 5", 60, rep(5, 3), "five"), list("nothing, 3 x 5", 120, rep(5, 3), "five"), list("nothing, 3 x 5", 300, rep(5, 3), "five"),
  list("nothing, 3 x 5", 600, rep(5, 3), "five"), list("nothing, 3 x 5, skewed", 250, rep(5, 3), "skewed five"),
  list("nothing, 2 x 8", 400, c(8, 8), "0/1"), list("nothing, 3 x 5, a fifth missing", 300, rep(5, 3), "five", gaps = .2),
  list("nothing, 3 x 5, groups 1 to 3", 600, rep(5, 3), "five", share = .25), list("nothing, 8 x 4", 500, rep(4, 8), "five"),
  list("stray item", 300, rep(5, 3), "five", plant = "stray item"), list("misplaced item", 300, rep(5, 3), "five", plant = "misplaced item"),
  list("pair", 300, rep(5, 3), "five", plant = "pair"), list("two as one", 300, rep(5, 3), "five", plant = "two as one"),
  list("intercept", 300, rep(5, 3), "five", plant = "intercept")
)
target <- list(`stray item` = "a4", `misplaced item` = "a4", pair = c("a1", "a3"), `two as one` = c("scale_a", "scale_b"), intercept = "b3")
for (page in pages) {
  aim <- target[[page[[1]]]]
  cell("first page", page[[1]], page[[4]], page[[2]], function(i) {
    found <- named_on_page(do.call(page_survey, c(list(i), page[-1])))
    if (is.null(aim)) c(`somebody or something named` = length(found$what) > 0 || found$people, `an item or subscale named` = length(found$what) > 0)
    else c(`what is wrong named` = any(aim %in% found$what), `something else named` = length(setdiff(found$what, c(aim, "scale_a", "scale_b"))) > 0)
  }, samples = 400)
}

# Intervals: how often they hold the truth (95%; SRMR 90%).
five <- sw_structure(s = paste0("s", 1:5))
for (answers in c("normal", "five", "three, skewed", "0/1")) {
  set.seed(7)
  large <- draw(correlated(five, .6, 0), 200000, answers)
  true_alpha <- core("core_alpha")(cov(large))
  true_omega <- core("core_omega")(cov(large), 200000)$omega
  true_r <- core("core_item_rest_r")(cov(large))[[1]]
  for (n in c(50, 100, 200, 500)) cell("intervals", "five items, loadings .6", answers, n, function(i) {
    # As sw_reliability() takes them: by the answers themselves where these are not near normal.
    x <- draw(correlated(five, .6, 0), n, answers)
    s <- stats::cov(x)
    normal <- core("near_normal")(x)
    holds <- function(ends, value) ends[1] <= value && value <= ends[2]
    alpha <- core("core_alpha")(s)
    omega <- core("core_omega")(s, n)
    feldt <- core("core_feldt_interval")(alpha, n, 5, .95)
    of_omega <- core("core_reliability_interval")(omega$omega, core("core_omega_error")(omega, s, n, if (!normal) x), n, .95)
    rest <- unlist(core("rest_interval")(core("core_item_rest_r")(s)[[1]], n))
    c(alpha = holds(if (normal) feldt else core("core_reliability_interval")(alpha, core("core_alpha_error")(x), n, .95), true_alpha),
      `alpha by Feldt` = holds(feldt, true_alpha), omega = holds(of_omega, true_omega), `item-rest r` = holds(rest, true_r))
  })
}
for (n in c(50, 100, 200, 500)) cell("intervals", "three factors, loadings .6", "normal", n, function(i) {
  x <- sw_confirm(sw_moments(draw(truth, n, "normal")), three)
  if (x$about$status != "ok") return(NULL)
  t <- x$tables
  r <- t$reliability
  c(loading = mean(t$loadings$standard_low <= .6 & .6 <= t$loadings$standard_high), `factor correlation` = mean(t$factor_correlations$conf.low <= .3 &
    .3 <= t$factor_correlations$conf.high), `composite reliability` = mean(r$reliability_low <= 9 / 12.2 & 9 / 12.2 <= r$reliability_high),
    AVE = mean(r$ave_low <= .36 & .36 <= r$ave_high), `RMSEA (90%)` = t$fit$conf.low[t$fit$figure == "rmsea"] <= 0,
    `SRMR (90%)` = t$fit$conf.low[t$fit$figure == "srmr"] <= 1e-9)
})

# Gaps: the confirmation's population, of which the first item of each factor is always answered and the others are left out the more the
# higher these answers are; shares of samples that reject a true solution, and of intervals that hold the truth.
with_gaps <- function(x, share) {
  seen <- colnames(x) %in% c("a1", "b1", "c1")
  pull <- rowMeans(scale(x[, seen]))
  chance <- stats::plogis(stats::qlogis(share) + 1.2 * pull)
  chance <- chance * share / mean(chance)
  for (j in which(!seen)) x[stats::runif(nrow(x)) < chance, j] <- NA
  x
}
for (answers in c("normal", "five")) {
  set.seed(7)
  large <- draw(truth, 200000, answers)
  true_alpha <- core("core_alpha")(cov(large[, 1:5]))
  true_omega <- core("core_omega")(cov(large[, 1:5]), 200000)$omega
  true_rest <- core("core_item_rest_r")(cov(large[, 1:5]))
  # The rotated solution of the population itself, with its correlations as the reference.
  reference <- sw_explore(sw_moments(cor(large), n = 1e6), 3, errors = "none")$parts
  for (share in c(.1, .3)) cell("gaps", paste0(100 * share, "% missing at random"), answers, 300, function(i) {
    x <- with_gaps(draw(truth, 300, answers), share)
    survey <- as_survey(x)
    holds <- function(low, high, value) mean(low <= value & value <= high)
    explored <- sw_explore(survey, 3)
    fit <- explored$tables$fit
    to <- core("core_match_factors")(reference$pattern, explored$parts$pattern)
    estimates <- subset(explored$tables$estimates, kind == "loading")
    at <- match(estimates$factor, colnames(explored$parts$pattern)[to$order])
    value <- reference$pattern[cbind(match(estimates$item, rownames(reference$pattern)), at)] * to$sign[at]
    # As sw_reliability() takes them.
    moments <- core("narrow_moments")(sw_moments(survey), paste0("a", 1:5))
    covariance <- moments$covariance
    one <- core("core_omega")(covariance, 300)
    of_alpha <- core("core_reliability_interval")(core("core_alpha")(covariance), core("core_delta_error")(core("core_alpha"), covariance,
      moments$gamma, 300), 300, .95)
    of_omega <- core("core_reliability_interval")(one$omega, core("core_omega_error")(one, covariance, 300, gamma = moments$gamma), 300, .95)
    r <- core("core_item_rest_r")(covariance)
    of_r <- core("r_interval")(r, core("core_delta_error")(core("core_item_rest_r"), covariance, moments$gamma, 300))
    complete <- x[stats::complete.cases(x[, 1:5]), 1:5]
    feldt <- core("core_feldt_interval")(core("core_alpha")(stats::cov(complete)), nrow(complete), 5, .95)
    c(`true solution rejected` = fit$corrected_p < .05, `uncorrected for n` = fit$p.value < .05, loading = holds(estimates$conf.low,
      estimates$conf.high, value),
      alpha = holds(of_alpha[1], of_alpha[2], true_alpha), omega = holds(of_omega[1], of_omega[2], true_omega),
      `item-rest r` = holds(of_r$low, of_r$high, true_rest), `alpha of complete cases` = holds(feldt[1], feldt[2], true_alpha))
  })
}

# Fit with gaps, by the robust estimator: six items of one factor, loadings .7, or two factors of three that correlate .3 taken for one.
for (r in c(1, .3)) for (n in c(60, 100, 200)) {
  s <- kronecker(matrix(c(1, r, r, 1), 2), matrix(.49, 3, 3))
  diag(s) <- 1
  colnames(s) <- paste0("a", 1:6)
  cell("fit with gaps", if (r == 1) "true" else "two as one, r .30", "five", n, function(i) {
    x <- sw_confirm(as_survey(with_gaps(draw(s, n, "five"), .25)), estimator = "robust")
    said_of(x)[c("usable", "does not fit", "open", "exact fit rejected")]
  }, 500)
}
