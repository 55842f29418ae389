"""Runs a WGSL shader over samples: SHADER ASKED FOUND WORDS NUMBERS COUNT...

ASKED has 32-bit words, WORDS for each sample; FOUND gets NUMBERS singles for each. The first COUNT samples are for the entry
point `main_0`, the next ones for `main_1`; each takes a sample by the global index in x.
"""

import sys

import wgpu

shader, asked, found, words, numbers, *counts = sys.argv[1:]
adapters = wgpu.gpu.enumerate_adapters_sync()
vulkan = [adapter for adapter in adapters if adapter.info["backend_type"] == "Vulkan"]
if not vulkan:
    sys.exit("no adapter")
device = vulkan[0].request_device_sync()
module = device.create_shader_module(code=open(shader).read())
given = open(asked, "rb").read()
results = []
for light, count in enumerate(int(count) for count in counts):
    if count == 0:
        continue
    bytes_of_light = 4 * int(words) * count
    own, given = given[:bytes_of_light], given[bytes_of_light:]
    source = device.create_buffer_with_data(data=own, usage=wgpu.BufferUsage.STORAGE)
    size = 4 * int(numbers) * count
    result = device.create_buffer(size=size, usage=wgpu.BufferUsage.STORAGE | wgpu.BufferUsage.COPY_SRC)
    pipeline = device.create_compute_pipeline(
        layout="auto", compute={"module": module, "entry_point": f"main_{light}"}
    )
    entries = [
        {"binding": 0, "resource": {"buffer": source, "offset": 0, "size": len(own)}},
        {"binding": 1, "resource": {"buffer": result, "offset": 0, "size": size}},
    ]
    # What a light does not read has no place in its layout.
    group = device.create_bind_group(layout=pipeline.get_bind_group_layout(0), entries=entries)
    encoder = device.create_command_encoder()
    compute = encoder.begin_compute_pass()
    compute.set_pipeline(pipeline)
    compute.set_bind_group(0, group)
    compute.dispatch_workgroups(count)
    compute.end()
    device.queue.submit([encoder.finish()])
    results.append(bytes(device.queue.read_buffer(result)))
open(found, "wb").write(b"".join(results))
