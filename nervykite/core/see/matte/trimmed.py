"""A network cut off behind some of its layers: what would come after them takes most of the time, and is not asked for.

TensorFlow Lite models are FlatBuffers: https://flatbuffers.dev, and the schema is part of the interpreter's package.
"""

import numpy as np

IDENTIFIER = b"TFL3"
"""What tells such a file from others."""


def trimmed(model: bytes, layers: tuple[int, ...]) -> bytes:
    """A TensorFlow Lite model of one graph that answers some of its layers, by the numbers of their tensors, in order.

    What they do not need is left out. Raises ImportError if the interpreter's package is not there.
    """
    import flatbuffers
    from ai_edge_litert import schema_py_generated as schema

    whole = schema.ModelT.InitFromPackedBuf(model, 0)
    (graph,) = whole.subgraphs
    needed, kept = set(layers), []
    for step in reversed(graph.operators):
        if needed & set(map(int, step.outputs)):
            needed |= set(map(int, step.inputs))
            kept.append(step)
    graph.operators, graph.outputs = kept[::-1], np.array(layers, np.int32)
    whole.signatureDefs = None  # they name the answers that it had
    builder = flatbuffers.Builder(len(model))
    builder.Finish(whole.Pack(builder), IDENTIFIER)
    return bytes(builder.Output())
