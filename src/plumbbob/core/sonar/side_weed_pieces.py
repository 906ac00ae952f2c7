"""Weights of the judgement of weed to the sides. Written by tools/learn_weed.py; do not edit by hand."""

BIAS = -2.7877
MEAN = (0.5544, 0.459, 0.0046, 0.7126, 0.8888, 1.0412)
SPREAD = (2.2362, 2.1536, 1.0273, 3.2196, 2.8538, 2.9132)
LINEAR = (1.8457, -0.6958, 0.3382, 1.3315, 1.581, 0.6489)
SQUARE = (0.0039, 0.0286, 0.2265, -0.4405, -0.6019, -0.6474)
