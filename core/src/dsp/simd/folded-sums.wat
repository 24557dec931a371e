;; Twin of `foldedSums` in half-band.ts, eight outputs at a time, two to a register. Same operations in the same order for
;; each output, so the same bits. All places are byte offsets into `memory`; frames is a multiple of eight.
(module
  (import "o" "memory" (memory 1))
  (func (export "foldedSums") (param $taps i32) (param $pairs i32) (param $rising i32) (param $falling i32) (param $out i32) (param $frames i32)
    (local $k i32) (local $r i32) (local $f i32) (local $t i32) (local $w v128)
    (local $s0 v128) (local $s1 v128) (local $s2 v128) (local $s3 v128)
    (loop $outputs
      (local.set $s0 (v128.const f64x2 0 0))
      (local.set $s1 (v128.const f64x2 0 0))
      (local.set $s2 (v128.const f64x2 0 0))
      (local.set $s3 (v128.const f64x2 0 0))
      (local.set $k (local.get $pairs))
      (local.set $r (local.get $rising))
      (local.set $f (local.get $falling))
      (local.set $t (local.get $taps))
      (loop $pair
        (local.set $w (v128.load64_splat (local.get $t)))
        (local.set $s0 (f64x2.add (local.get $s0) (f64x2.mul (local.get $w) (f64x2.add (v128.load (local.get $r)) (v128.load (local.get $f))))))
        (local.set $s1 (f64x2.add (local.get $s1) (f64x2.mul (local.get $w) (f64x2.add (v128.load offset=16 (local.get $r)) (v128.load offset=16 (local.get $f))))))
        (local.set $s2 (f64x2.add (local.get $s2) (f64x2.mul (local.get $w) (f64x2.add (v128.load offset=32 (local.get $r)) (v128.load offset=32 (local.get $f))))))
        (local.set $s3 (f64x2.add (local.get $s3) (f64x2.mul (local.get $w) (f64x2.add (v128.load offset=48 (local.get $r)) (v128.load offset=48 (local.get $f))))))
        (local.set $r (i32.add (local.get $r) (i32.const 8)))
        (local.set $f (i32.sub (local.get $f) (i32.const 8)))
        (local.set $t (i32.add (local.get $t) (i32.const 8)))
        (br_if $pair (local.tee $k (i32.sub (local.get $k) (i32.const 1)))))
      (v128.store (local.get $out) (local.get $s0))
      (v128.store offset=16 (local.get $out) (local.get $s1))
      (v128.store offset=32 (local.get $out) (local.get $s2))
      (v128.store offset=48 (local.get $out) (local.get $s3))
      (local.set $out (i32.add (local.get $out) (i32.const 64)))
      (local.set $rising (i32.add (local.get $rising) (i32.const 64)))
      (local.set $falling (i32.add (local.get $falling) (i32.const 64)))
      (br_if $outputs (local.tee $frames (i32.sub (local.get $frames) (i32.const 8))))))

  ;; out[2i] = a[i], out[2i + 1] = b[i]; frames is a multiple of two.
  (func (export "interleave") (param $a i32) (param $b i32) (param $out i32) (param $frames i32)
    (local $x v128) (local $y v128)
    (loop $pairs
      (local.set $x (v128.load (local.get $a)))
      (local.set $y (v128.load (local.get $b)))
      (v128.store (local.get $out) (i8x16.shuffle 0 1 2 3 4 5 6 7 16 17 18 19 20 21 22 23 (local.get $x) (local.get $y)))
      (v128.store offset=16 (local.get $out) (i8x16.shuffle 8 9 10 11 12 13 14 15 24 25 26 27 28 29 30 31 (local.get $x) (local.get $y)))
      (local.set $a (i32.add (local.get $a) (i32.const 16)))
      (local.set $b (i32.add (local.get $b) (i32.const 16)))
      (local.set $out (i32.add (local.get $out) (i32.const 32)))
      (br_if $pairs (local.tee $frames (i32.sub (local.get $frames) (i32.const 2))))))

  ;; a[i] = in[2i], b[i] = in[2i + 1]; frames is a multiple of two.
  (func (export "part") (param $in i32) (param $a i32) (param $b i32) (param $frames i32)
    (local $x v128) (local $y v128)
    (loop $pairs
      (local.set $x (v128.load (local.get $in)))
      (local.set $y (v128.load offset=16 (local.get $in)))
      (v128.store (local.get $a) (i8x16.shuffle 0 1 2 3 4 5 6 7 16 17 18 19 20 21 22 23 (local.get $x) (local.get $y)))
      (v128.store (local.get $b) (i8x16.shuffle 8 9 10 11 12 13 14 15 24 25 26 27 28 29 30 31 (local.get $x) (local.get $y)))
      (local.set $in (i32.add (local.get $in) (i32.const 32)))
      (local.set $a (i32.add (local.get $a) (i32.const 16)))
      (local.set $b (i32.add (local.get $b) (i32.const 16)))
      (br_if $pairs (local.tee $frames (i32.sub (local.get $frames) (i32.const 2))))))

  ;; Twin of `shapeRound` in antiderivative.ts: (x + last) / (√(1 + x²) + √(1 + last²)), in place. `state` holds the last
  ;; input and its root; frames is a multiple of two.
  (func (export "shapeRound") (param $x i32) (param $frames i32) (param $state i32)
    (local $a v128) (local $root v128) (local $last v128) (local $lastRoot v128) (local $one v128)
    (local.set $one (v128.const f64x2 1 1))
    (local.set $last (v128.load64_splat (local.get $state)))
    (local.set $lastRoot (v128.load64_splat offset=8 (local.get $state)))
    (loop $pairs
      (local.set $a (v128.load (local.get $x)))
      (local.set $root (f64x2.sqrt (f64x2.add (local.get $one) (f64x2.mul (local.get $a) (local.get $a)))))
      (v128.store (local.get $x) (f64x2.div
        (f64x2.add (local.get $a) (i8x16.shuffle 8 9 10 11 12 13 14 15 16 17 18 19 20 21 22 23 (local.get $last) (local.get $a)))
        (f64x2.add (local.get $root) (i8x16.shuffle 8 9 10 11 12 13 14 15 16 17 18 19 20 21 22 23 (local.get $lastRoot) (local.get $root)))))
      (local.set $last (local.get $a))
      (local.set $lastRoot (local.get $root))
      (local.set $x (i32.add (local.get $x) (i32.const 16)))
      (br_if $pairs (local.tee $frames (i32.sub (local.get $frames) (i32.const 2)))))
    (f64.store (local.get $state) (f64x2.extract_lane 1 (local.get $last)))
    (f64.store offset=8 (local.get $state) (f64x2.extract_lane 1 (local.get $lastRoot)))))
